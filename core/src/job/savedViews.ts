/** Most views that a job keeps. */
export const mostViews = 40;

/** An eye on the model that was kept under a name: it looks at the target from so far away; angles in radians, 0 and 0 are the front. */
export interface SavedView {
  readonly name: string;
  readonly target: readonly number[];
  readonly distance: number;
  readonly azimuth: number;
  readonly elevation: number;
}

const isNumber = (value: unknown) => typeof value === 'number' && Number.isFinite(value);

/** Whether these are views as a job keeps them. By hand, not by a schema: every page that shows jobs would have to load what such a schema needs. */
export function areViews(value: unknown): value is readonly SavedView[] {
  if (!Array.isArray(value) || value.length > mostViews) return false;
  return value.every((view: Partial<Record<keyof SavedView, unknown>> | null) => {
    if (!view || typeof view !== 'object') return false;
    const { name, target, distance, azimuth, elevation } = view;
    if (typeof name !== 'string' || name.length === 0 || name.length > 80) return false;
    if (!Array.isArray(target) || target.length !== 3 || !target.every(isNumber)) return false;
    return [distance, azimuth, elevation].every(isNumber) && (distance as number) > 0 && Math.abs(elevation as number) <= 1.5708;
  });
}
