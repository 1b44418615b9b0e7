import { describe, expect, it, vi } from 'vitest';
import { Ownership, type Channel, type Locks, type Owner } from './ownership.ts';

/** Web Locks as their specification has them, as far as they are used: one holder a name, a queue, ifAvailable, steal, abort. */
function fakeLocks(): Locks {
  interface Ask {
    work: (lock: unknown) => Promise<unknown>;
    resolve: (value: unknown) => void;
    reject: (error: Error) => void;
  }
  const held = new Map<string, Ask>();
  const queues = new Map<string, Ask[]>();
  const give = (name: string, ask: Ask) => {
    held.set(name, ask);
    void Promise.resolve()
      .then(() => ask.work({ name }))
      .then((value) => {
        ask.resolve(value);
        if (held.get(name) !== ask) return;
        held.delete(name);
        const next = queues.get(name)?.shift();
        if (next) give(name, next);
      }, ask.reject);
  };
  return {
    request: (name, { ifAvailable, steal, signal }, work) =>
      new Promise((resolve, reject) => {
        const ask: Ask = { work, resolve, reject };
        if (steal) {
          held.get(name)?.reject(new DOMException('stolen', 'AbortError'));
          give(name, ask);
        } else if (!held.has(name)) give(name, ask);
        else if (ifAvailable) void work(null).then(resolve, reject);
        else {
          const queue = queues.get(name) ?? [];
          queues.set(name, queue);
          queue.push(ask);
          signal?.addEventListener('abort', () => {
            const at = queue.indexOf(ask);
            if (at < 0) return;
            queue.splice(at, 1);
            reject(new DOMException('aborted', 'AbortError'));
          });
        }
      }),
  };
}

function browser() {
  const locks = fakeLocks();
  const channels = new Set<Channel>();
  const open = (name: string, answers = true) => {
    const heard: string[] = [];
    const changes: [Owner, string][] = [];
    const channel = (): Channel => {
      const mine: Channel = {
        onmessage: null,
        postMessage: (data) => channels.forEach((other) => other !== mine && setTimeout(() => other.onmessage?.({ data } as MessageEvent), 0)),
        close: () => void channels.delete(mine),
      };
      if (answers) channels.add(mine);
      return mine;
    };
    const session = new Ownership(
      'job',
      name,
      {
        givingUp: () => Promise.resolve(void heard.push('giving up')),
        changed: (owner, how) => changes.push([owner, how]),
        kept: () => heard.push('kept'),
      },
      locks,
      channel,
    );
    return { session, heard, changes };
  };
  return { open };
}

describe('who may write a job', () => {
  it('the first session; the second looks on and hears of each save', async () => {
    const { open } = browser();
    const [a, b] = [open('a'), open('b')];
    expect(await a.session.take()).toBe('mine');
    expect(await b.session.take()).toBe('others');
    a.session.tellKept();
    await vi.waitFor(() => expect(b.heard).toEqual(['kept']));
    b.session.tellKept();
    await new Promise((next) => setTimeout(next, 10));
    expect(a.heard).toEqual([]);
  });

  it('when the first lets go, the one that looks on gets it by itself', async () => {
    const { open } = browser();
    const [a, b] = [open('a'), open('b')];
    await a.session.take();
    await b.session.take();
    a.session.close();
    await vi.waitFor(() => expect(b.changes).toEqual([['mine', 'got']]));
  });

  it('taking over: the first keeps what it has, lets go, and looks on; never are there two', async () => {
    const { open } = browser();
    const [a, b] = [open('a'), open('b')];
    await a.session.take();
    await b.session.take();
    const watch = setInterval(() => expect(a.session.isMine && b.session.isMine).toBe(false), 0);
    await b.session.takeOver();
    clearInterval(watch);
    expect([a.session.isMine, b.session.isMine]).toEqual([false, true]);
    expect(a.heard).toEqual(['giving up']);
    expect(a.changes).toEqual([['others', 'stolen']]);
    expect(b.changes).toEqual([['mine', 'taken']]);
    await a.session.takeOver();
    expect([a.session.isMine, b.session.isMine]).toEqual([true, false]);
  });

  it('one that does not answer has it taken away', async () => {
    vi.useFakeTimers();
    try {
      const { open } = browser();
      const [a, b] = [open('a', false), open('b')];
      await a.session.take();
      await b.session.take();
      const done = b.session.takeOver();
      await vi.advanceTimersByTimeAsync(5000);
      await done;
      expect([a.session.isMine, b.session.isMine]).toEqual([false, true]);
      expect(a.changes).toEqual([['others', 'stolen']]);
    } finally {
      vi.useRealTimers();
    }
  });

  it('of three, the one that asks gets it, not the one that waits longest', async () => {
    const { open } = browser();
    const [a, b, c] = [open('a'), open('b'), open('c')];
    await a.session.take();
    await b.session.take();
    await c.session.take();
    await c.session.takeOver();
    expect([a.session.isMine, b.session.isMine, c.session.isMine]).toEqual([false, false, true]);
  });
});
