import { useEffect, useState, type ComponentType } from 'react';

/**
 * A component whose code is fetched when it is first shown, or before by `load`; once fetched it is drawn with what stands round it. A suspended component
 * would be held back by React for 300 ms after anything else was waited for, and by a turn even where its code is there.
 * @param waits stands in its place meanwhile
 */
export function later<P extends object>(
  fetchCode: () => Promise<{ default: ComponentType<P> }>,
  waits?: ComponentType,
): ComponentType<P> & { load(): Promise<void> } {
  let ready: ComponentType<P> | null = null;
  const load = async () => {
    ready ??= (await fetchCode()).default;
  };
  const Waits = waits;
  function Later(props: P) {
    const [Shown, show] = useState(() => ready);
    useEffect(() => {
      if (Shown) return;
      let isWanted = true;
      load().then(
        () => isWanted && show(() => ready),
        (error: unknown) =>
          show(() => {
            // told as any fault of the page
            throw error;
          }),
      );
      return () => {
        isWanted = false;
      };
    }, [Shown]);
    if (Shown) return <Shown {...props} />;
    return Waits ? <Waits /> : null;
  }
  return Object.assign(Later, { load });
}
