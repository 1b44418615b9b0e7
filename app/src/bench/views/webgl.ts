import { isFullPower } from '../../lowPower.ts';

let known: { works: boolean; maxPx: number; isSoftware: boolean } | null = null;

/** Names that drawing by the processor goes by. */
const software = /swiftshader|llvmpipe|softpipe|software|basic render/i;

/** Asks once: making a context takes most of a second where the processor draws. */
function probe(): { works: boolean; maxPx: number; isSoftware: boolean } {
  if (!known) {
    const gl = document.createElement('canvas').getContext('webgl2');
    const names = gl?.getExtension('WEBGL_debug_renderer_info');
    const renderer = names ? String(gl!.getParameter(names.UNMASKED_RENDERER_WEBGL)) : '';
    known = { works: gl !== null, maxPx: gl ? (gl.getParameter(gl.MAX_TEXTURE_SIZE) as number) : 4096, isSoftware: software.test(renderer) };
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return known;
}

/** Can this browser draw the views at all? */
export const hasWebGl = (): boolean => probe().works;

/** The largest picture (px a side) that this machine's graphics take; larger ones are shown from a reduced copy. */
export const mostTexturePx = (): number => Math.min(8192, probe().maxPx);

/** Whether the processor draws, where there is no graphics card: each px costs, on the cores that work. */
export const isDrawnBySoftware = (): boolean => !isFullPower() && probe().isSoftware;
