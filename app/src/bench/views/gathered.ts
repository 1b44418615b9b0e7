/** Ms that other parts are gathered for: they come one or a few at a time, and each time all of them are drawn. */
const gatheredFor = 120;

/**
 * Shows a state: at once with what else changed, or a moment later by itself, however often it is asked for meanwhile.
 * @param newest the state to show then
 */
export function gathered<S>(newest: () => S, show: (state: S) => void) {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const stop = () => {
    clearTimeout(timer);
    timer = undefined;
  };
  const now = (state: S) => {
    stop();
    show(state);
  };
  const soon = () => {
    timer ??= setTimeout(() => now(newest()), gatheredFor);
  };
  return { now, soon, stop };
}
