let known: boolean | null = null;

/** Can this browser draw the views at all? */
export function hasWebGl(): boolean {
  if (known === null) {
    const context = document.createElement('canvas').getContext('webgl2');
    known = context !== null;
    context?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return known;
}
