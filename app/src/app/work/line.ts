import { expose as exposeOverComlink, transfer, transferHandlers, wrap, type Remote } from 'comlink';
import { packError, unpackError, type PlainError } from './protocol';

/** An error that passes between threads keeps its class and code. */
const thrown = transferHandlers.get('throw');
if (thrown)
  transferHandlers.set('throw', {
    canHandle: (value): value is unknown => thrown.canHandle(value),
    serialize: (value) => [packError((value as { value: unknown }).value), []],
    deserialize: (error) => {
      throw unpackError(error as PlainError);
    },
  });

/** Offers what a worker does to the page. */
export const expose = (work: object): void => exposeOverComlink(work);

/** An answer whose memory goes along instead of being copied. */
export const moved = <T extends object>(answer: T, memory: Transferable[]): T => transfer(answer, memory);

/** A worker ended by itself, twice: there is something that it cannot do. */
export class WorkerEnded extends Error {
  constructor(why: string) {
    super(
      `The browser ended the work on this (${why || 'probably for want of memory'}). What was saved is safe; try again, or load the page again.`,
    );
    this.name = 'WorkerEnded';
  }
}

interface Live<T> {
  readonly remote: Remote<T>;
  /** When it has what it needs; rejects when it dies. Null once it has: what it is asked then leaves at once, not after what else the page has to do. */
  ready: Promise<unknown> | null;
  readonly died: Promise<never>;
  readonly end: (why: string) => void;
}

/** Calls to a worker. One that dies is started again, brought to where it was, and asked again, once. */
export class Line<T extends object> {
  private live: Live<T> | null = null;
  private starts = 0;

  /** @param again brings a worker that was started again to where the one before it was */
  constructor(
    private readonly start: () => Worker,
    private readonly again: (work: Remote<T>) => Promise<unknown> = async () => undefined,
  ) {}

  /** Starts the worker before anything is asked of it. */
  warm(): void {
    this.live ??= this.begin();
  }

  /** Ends the worker, and gives back at once what it holds on to. What it is still asked the next one does, which starts when it is wanted. */
  end(): void {
    this.live?.end('');
  }

  async call<R>(use: (work: Remote<T>) => Promise<R>): Promise<R> {
    try {
      return await this.once(use);
    } catch (error) {
      if (!(error instanceof WorkerEnded)) throw error;
      return this.once(use);
    }
  }

  private async once<R>(use: (work: Remote<T>) => Promise<R>): Promise<R> {
    const live = (this.live ??= this.begin());
    if (live.ready) await live.ready;
    return Promise.race([use(live.remote), live.died]);
  }

  private begin(): Live<T> {
    const worker = this.start();
    const remote = wrap<T>(worker);
    let end: Live<T>['end'] = () => undefined;
    const died = new Promise<never>((_, reject) => {
      end = (why) => {
        worker.terminate();
        if (this.live?.remote === remote) this.live = null;
        reject(new WorkerEnded(why));
      };
      worker.onerror = (event): void => {
        event.preventDefault();
        end(event.message);
      };
    });
    died.catch(() => undefined);
    this.starts += 1;
    const live: Live<T> = { remote, ready: this.starts === 1 ? null : Promise.race([this.again(remote), died]), died, end };
    live.ready?.then(
      () => (live.ready = null),
      () => undefined,
    );
    return live;
  }
}
