import { create } from 'zustand';
import { pinnedKey as keyOf } from '../keep/bin.ts';
import { useBench } from '../store/bench.ts';

/** A picture to look at while working, over the model view: px from its lower left corner. It is never measured, baked or delivered. */
export interface PinnedPicture {
  /** The image by id. */
  image: string;
  left: number;
  bottom: number;
  width: number;
}

interface Pinned {
  pins: readonly PinnedPicture[];
  isHidden: boolean;
}

export const leastWidth = 60;
export const mostWidth = 1200;
const mostPins = 6;
const jobNow = () => useBench.getState().summary?.id;

const isPin = (one: unknown): one is PinnedPicture => {
  if (typeof one !== 'object' || one === null) return false;
  const { image, left, bottom, width } = one as Record<string, unknown>;
  return typeof image === 'string' && [left, bottom, width].every(Number.isFinite) && (width as number) >= leastWidth && (width as number) <= mostWidth;
};

/** What this browser keeps for a job; none where that is damaged or cannot be read. */
function kept(job: string | undefined): Pinned {
  try {
    const found = (job === undefined ? null : JSON.parse(localStorage.getItem(keyOf(job)) ?? 'null')) as Partial<Pinned> | null;
    const pins = Array.isArray(found?.pins) ? found.pins.filter(isPin).slice(0, mostPins) : [];
    return { pins, isHidden: found?.isHidden === true };
  } catch {
    return { pins: [], isHidden: false };
  }
}

export const usePinned = create<Pinned>(() => kept(jobNow()));

// pictures are pinned to a job
useBench.subscribe((now, before) => {
  if (now.summary?.id !== before.summary?.id) usePinned.setState(kept(now.summary?.id));
});

function put(next: Partial<Pinned>): void {
  usePinned.setState(next);
  const job = jobNow();
  if (job === undefined) return;
  const { pins, isHidden } = usePinned.getState();
  try {
    if (pins.length === 0) localStorage.removeItem(keyOf(job));
    else localStorage.setItem(keyOf(job), JSON.stringify({ pins, isHidden }));
  } catch {
    // without storage they last as long as the page
  }
}

/** Pins a picture in the lower left corner, beside those that are there; the oldest goes where there are many. */
export function pinPicture(image: string): void {
  const others = usePinned.getState().pins.filter((one) => one.image !== image);
  const left = others.reduce((most, one) => Math.max(most, one.left + one.width + 8), 12);
  put({ pins: [...others, { image, left: left > 600 ? 12 : left, bottom: 12, width: 180 }].slice(-mostPins), isHidden: false });
}

export const unpinPicture = (image: string): void => put({ pins: usePinned.getState().pins.filter((one) => one.image !== image) });

export function placePinned(image: string, to: Partial<Omit<PinnedPicture, 'image'>>): void {
  const sound = (one: PinnedPicture): PinnedPicture => ({
    ...one,
    left: Math.max(0, one.left),
    bottom: Math.max(0, one.bottom),
    width: Math.min(mostWidth, Math.max(leastWidth, one.width)),
  });
  put({ pins: usePinned.getState().pins.map((one) => (one.image === image ? sound({ ...one, ...to }) : one)) });
}

export const togglePinned = (): void => put({ isHidden: !usePinned.getState().isHidden });
