/** A canvas over a view, as large as the view and empty, ready to draw on in px of the view; null while there is none or no room. */
export function cleared(element: HTMLCanvasElement | null, { width, height }: { width: number; height: number }): CanvasRenderingContext2D | null {
  if (!element) return null;
  const dpr = Math.min(2, window.devicePixelRatio || 1);
  if (element.width !== Math.round(width * dpr) || element.height !== Math.round(height * dpr)) {
    element.width = Math.round(width * dpr);
    element.height = Math.round(height * dpr);
  }
  const c = element.getContext('2d');
  if (!c || width < 10) return null;
  c.setTransform(dpr, 0, 0, dpr, 0, 0);
  c.clearRect(0, 0, width, height);
  return c;
}
