/*
 * How it is known that a worker has ended, whether it failed, was ended by the browser for lack of memory, or was terminated: it holds a Web Lock
 * of a name of its own, and whoever asks for that lock gets it just when the worker is gone. No event tells of all of these.
 */

/** In the worker: holds the lock of that name from now on. False where the browser has no Web Locks. */
export function holdWhileAlive(name: string): Promise<boolean> {
  const locks = (navigator as { locks?: LockManager }).locks;
  if (!locks) return Promise.resolve(false);
  return new Promise((held) => {
    void locks.request(name, () => {
      held(true);
      return new Promise<void>(() => {});
    });
  });
}

/** A worker that can tell that it is alive. */
interface Alive {
  alive(name: string): Promise<boolean>;
}

/** Resolves when the worker is gone; never where that cannot be known. The worker's own `error` event counts, too. */
export function whenGone(worker: Worker, api: Alive): Promise<void> {
  const name = `jig-peel/alive/${crypto.randomUUID()}`;
  return new Promise((gone) => {
    worker.addEventListener('error', (event) => {
      // one that did not load, not a fault within a call: that is answered by the call
      if (!event.message || /import|script|load/i.test(event.message)) gone();
    });
    void api.alive(name).then((held) => {
      if (held) void navigator.locks.request(name, () => gone());
    });
  });
}
