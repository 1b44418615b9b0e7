import { LatestOnly } from '../../session/latestOnly.ts';
import { useBench } from '../../store/bench.ts';
import { inOwnWorker } from '../../worker/seat.ts';
import { activeImageId, activePicture } from './activePicture.ts';
import { useHands } from './handsState.ts';

/** Pictures are looked at no larger than this: an outline is found to a fraction of a px of it. */
const mostPx = 1536;
const none = new Float32Array(0);

/** The image that the outline at hand is of. */
let of: string | null = null;

const asking = new LatestOnly<string, Float32Array | null>(
  async () => {
    const picture = await activePicture(mostPx);
    return picture && inOwnWorker('outline', picture);
  },
  (points, id) => {
    of = id;
    useHands.getState().set({ outline: points ?? none });
  },
  () => useBench.getState().notice('This image cannot be read: it may be cut short.', 'warning'),
);

/** Finds the outline of the part's picture while hands are to catch at it. @returns how to stop */
export function watchOutline(): () => void {
  const look = () => {
    const id = useHands.getState().snaps.outline ? activeImageId() : null;
    if (id === of) return;
    of = null;
    useHands.getState().set({ outline: none });
    if (id) asking.ask(id);
    else asking.drop();
  };
  look();
  const stops = [
    useBench.subscribe((s, before) => {
      if (s.summary !== before.summary) look();
    }),
    useHands.subscribe((s, before) => {
      if (s.snaps !== before.snaps) look();
    }),
  ];
  return () => {
    stops.forEach((stop) => stop());
    asking.drop();
    of = null;
    useHands.getState().set({ outline: none });
  };
}
