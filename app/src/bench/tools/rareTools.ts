/* Tools that are fetched when one of them is taken in hand. */
export { AreaTool } from './areaTool.ts';
export { FieldTool } from './fieldTool.ts';
export { GrainTool } from './grainTool.ts';
export { PairTool } from './pairTool.ts';
export { PushTool } from './pushTool.ts';
export { RelaxTool } from './relaxTool.ts';
export { AtWorkTool } from './atWorkTool.ts';
export { PenTool } from './penTool.ts';
