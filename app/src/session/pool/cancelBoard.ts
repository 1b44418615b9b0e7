/** Works at a time that can each be cancelled; slot 0 counts those that were begun, one more at the end holds the slot of the person's newest. */
const slots = 64;

/** Where a worker looks whether its work has been cancelled. */
export interface CancelFlag {
  buffer: SharedArrayBuffer;
  slot: number;
}

export const isFlagged = ({ buffer, slot }: CancelFlag): boolean => Atomics.load(new Int32Array(buffer), slot) !== 0;

/**
 * Says of each work whether it has been cancelled, in memory that the screen, the session and the pool's workers share: a loop sees it although its thread
 * takes no message. Where the page is not isolated there is no such memory; then `isShared` is false, and cancelling goes by messages and by ending workers.
 */
export class CancelBoard {
  private readonly flags: Int32Array;

  constructor(buffer?: SharedArrayBuffer | null) {
    this.flags = buffer
      ? new Int32Array(buffer)
      : typeof SharedArrayBuffer === 'undefined'
        ? new Int32Array(slots + 1)
        : new Int32Array(new SharedArrayBuffer((slots + 1) * 4));
  }

  get isShared(): boolean {
    return typeof SharedArrayBuffer !== 'undefined' && this.flags.buffer instanceof SharedArrayBuffer;
  }

  /** To give to another thread; null where memory cannot be shared. */
  get buffer(): SharedArrayBuffer | null {
    return this.isShared ? (this.flags.buffer as unknown as SharedArrayBuffer) : null;
  }

  /** A work begins; its slot. @param isAsked whether a person asked for it, not the app on its own (measuring, advice) */
  begin(isAsked = false): number {
    const slot = 1 + (Atomics.add(this.flags, 0, 1) % (slots - 1));
    Atomics.store(this.flags, slot, 0);
    if (isAsked) Atomics.store(this.flags, slots, slot);
    return slot;
  }

  /** Slot of what a person asked for last; 0 before anything. */
  get newest(): number {
    return Atomics.load(this.flags, slots);
  }

  cancel(slot: number): void {
    if (slot > 0) Atomics.store(this.flags, slot, 1);
  }

  isCancelled(slot: number): boolean {
    return Atomics.load(this.flags, slot) !== 0;
  }

  flag(slot: number): CancelFlag | null {
    return this.buffer ? { buffer: this.buffer, slot } : null;
  }
}
