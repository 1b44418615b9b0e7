let known: { works: boolean; maxPx: number } | null = null;

/** Asks once: making a context takes most of a second where the processor draws. */
function probe(): { works: boolean; maxPx: number } {
  if (!known) {
    const gl = document.createElement('canvas').getContext('webgl2');
    known = { works: gl !== null, maxPx: gl ? (gl.getParameter(gl.MAX_TEXTURE_SIZE) as number) : 4096 };
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return known;
}

/** Can this browser draw the views at all? */
export const hasWebGl = (): boolean => probe().works;

/** The largest picture (px a side) that this machine's graphics take; larger ones are shown from a reduced copy. */
export const mostTexturePx = (): number => Math.min(8192, probe().maxPx);
