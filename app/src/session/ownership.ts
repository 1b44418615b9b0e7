/** The part of the Web Locks API that is used, so that tests can bring their own. */
export interface Locks {
  request(name: string, options: { ifAvailable?: boolean; steal?: boolean; signal?: AbortSignal }, work: (lock: unknown) => Promise<unknown>): Promise<unknown>;
}

/** The part of a BroadcastChannel that is used. */
export interface Channel {
  postMessage(message: unknown): void;
  close(): void;
  onmessage: ((event: MessageEvent) => void) | null;
}

/** mine: this session writes; others: another one does, this one looks on. */
export type Owner = 'mine' | 'others';

interface Handlers {
  /** Another session asks for the job: what is not kept yet is kept before the promise resolves. */
  givingUp(): Promise<void>;
  /** Who writes has changed. */
  changed(owner: Owner, how: 'taken' | 'got' | 'stolen'): void;
  /** The session that writes has kept something. */
  kept(): void;
}

/** Ms that a session that writes is given to keep what it has and let go. */
const patience = 4000;
/** Ms after which one that stood aside for another waits for its turn again. */
const aside = 1500;

type Message = { kind: 'kept' | 'wanted'; from: string };

/**
 * Who may write a job, of all sessions of this browser: the one that holds its Web Lock. The others look on, hear of each save, and get it by
 * themselves when it is free, or when they ask for it: then the one that writes keeps what it has and lets go; if it does not answer it is taken away.
 * Without Web Locks (an address that is no secure one) every session writes, and the database's own mark of the last writer decides.
 */
export class Ownership {
  private owner: Owner = 'others';
  private release: (() => void) | null = null;
  private queue: AbortController | null = null;
  private readonly channel: Channel | null;
  private closed = false;
  private readonly name: string;

  constructor(
    jobId: string,
    /** Unlike for every session. */
    readonly token: string,
    private readonly handlers: Handlers,
    private readonly locks: Locks | undefined = (globalThis.navigator as { locks?: Locks } | undefined)?.locks,
    makeChannel: (name: string) => Channel | null = (name) =>
      typeof BroadcastChannel === 'undefined' ? null : (new BroadcastChannel(name) as unknown as Channel),
  ) {
    this.name = `jig-peel/job/${jobId}`;
    this.channel = makeChannel(this.name);
    if (this.channel) this.channel.onmessage = (event) => void this.hear(event.data as Message);
  }

  get isMine(): boolean {
    return this.owner === 'mine';
  }

  /** Takes the job if nobody has it; else looks on and waits for its turn. */
  async take(): Promise<Owner> {
    if (!this.locks) this.owner = 'mine';
    else {
      await this.hold({ ifAvailable: true });
      if (this.owner !== 'mine') this.waitForTurn();
    }
    return this.owner;
  }

  /** Asks the session that writes for the job, and takes it away where that does not answer. */
  async takeOver(): Promise<void> {
    if (!this.locks || this.owner === 'mine' || this.closed) return;
    this.queue?.abort();
    this.queue = null;
    this.channel?.postMessage({ kind: 'wanted', from: this.token } satisfies Message);
    const late = new AbortController();
    const timer = setTimeout(() => late.abort(), patience);
    await this.hold({ signal: late.signal });
    clearTimeout(timer);
    if (!this.isMine) await this.hold({ steal: true });
    if (this.isMine) this.handlers.changed('mine', 'taken');
  }

  /** Tells the sessions that look on. */
  tellKept(): void {
    if (this.isMine) this.channel?.postMessage({ kind: 'kept', from: this.token } satisfies Message);
  }

  /** Lets go for good. */
  close(): void {
    this.closed = true;
    this.queue?.abort();
    this.owner = 'others';
    this.release?.();
    this.release = null;
    this.channel?.close();
  }

  /** Resolves once it is decided whether the lock is held; it is held until `release`. */
  private hold(options: { ifAvailable?: boolean; steal?: boolean; signal?: AbortSignal }): Promise<void> {
    return new Promise((decided) => {
      let got = false;
      this.locks!.request(this.name, options, (lock) => {
        if (!lock || this.closed) {
          decided();
          return Promise.resolve();
        }
        got = true;
        this.owner = 'mine';
        return new Promise<void>((resolve) => {
          this.release = resolve;
          decided();
        });
      }).catch(() => {
        // taken away from this session, or no longer waited for
        if (got && this.owner === 'mine' && !this.closed) {
          this.owner = 'others';
          this.release = null;
          this.handlers.changed('others', 'stolen');
          this.waitForTurn();
        }
        decided();
      });
    });
  }

  private waitForTurn(): void {
    if (this.closed || !this.locks) return;
    const queue = new AbortController();
    this.queue = queue;
    void this.hold({ signal: queue.signal }).then(() => {
      if (this.queue === queue) this.queue = null;
      if (this.isMine && !queue.signal.aborted && !this.closed) this.handlers.changed('mine', 'got');
    });
  }

  private async hear({ kind, from }: Message): Promise<void> {
    if (from === this.token || this.closed) return;
    if (kind === 'kept') {
      if (!this.isMine) this.handlers.kept();
      return;
    }
    if (this.isMine) {
      await this.handlers.givingUp();
      if (!this.isMine) return;
      this.owner = 'others';
      this.release?.();
      this.release = null;
      this.handlers.changed('others', 'stolen');
    } else this.queue?.abort();
    setTimeout(() => !this.isMine && this.waitForTurn(), aside);
  }
}
