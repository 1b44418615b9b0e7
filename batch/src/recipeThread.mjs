/* A thread begins without what reads TypeScript: it takes the program made of recipeThread.ts, in the folder of which this file has the same name. */
import { pathToFileURL } from 'node:url';
import { programFile } from '../../scripts/programs.mjs';

await import(pathToFileURL(await programFile('recipeThread')));
