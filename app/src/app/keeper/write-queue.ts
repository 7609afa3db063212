/** A write that failed is tried again after this long, ms, then after twice as long, and so on. */
const FIRST_RETRY_MS = 1000;
const LONGEST_RETRY_MS = 30_000;

type Write = (hurry: boolean) => Promise<void>;

interface Entry {
  /** What is to be written; null once that has begun. */
  write: Write | null;
  timer: ReturnType<typeof setTimeout> | null;
  /** When the last write began, and how many have; the last of them that has ended well. */
  began: number;
  count: number;
  written: number;
  readonly writing: Set<Promise<void>>;
  failures: number;
}

/** What the queue tells of a document. */
export type Told = { readonly saved: true } | { readonly saved: false; readonly error: unknown };

/**
 * The one queue of writes to the shelf. A document is told to be saved when its own newest state is written, and not before; one that
 * fails is tried again, and holds up no other. Writes begin in the very turn of the change where they may: while keys flood in, timers and
 * answers wait for long.
 */
export class WriteQueue {
  private readonly entries = new Map<string, Entry>();

  constructor(private readonly tell: (document: string, told: Told) => void) {}

  /**
   * Notes that a document changed.
   *
   * @param gap what changes all the time is written this often at most, ms; the first change after a pause is written at once
   * @param write puts the state of that moment onto the shelf; true asks it to do so without looking first, since the page is going
   */
  put(document: string, gap: number, write: Write): void {
    const entry: Entry = this.entries.get(document) ?? {
      write: null,
      timer: null,
      began: -Infinity,
      count: 0,
      written: 0,
      writing: new Set(),
      failures: 0,
    };
    this.entries.set(document, entry);
    entry.write = write;
    const wait = entry.began + gap - performance.now();
    if (wait <= 0) this.begin(document, entry, false);
    else this.schedule(document, entry, wait);
  }

  /** What was to be written of a document is not to be any more. */
  drop(document: string): void {
    const entry = this.entries.get(document);
    if (entry?.timer) clearTimeout(entry.timer);
    this.entries.delete(document);
  }

  /** Writes at once what waits; resolves when nothing is being written, whether that failed or not. */
  async flush(hurry = false): Promise<void> {
    for (const [document, entry] of this.entries) this.begin(document, entry, hurry);
    const writing = (): Promise<void>[] => [...this.entries.values()].flatMap((entry) => [...entry.writing]);
    while (writing().length > 0) await Promise.all(writing());
  }

  private schedule(document: string, entry: Entry, after: number): void {
    if (entry.timer) clearTimeout(entry.timer);
    entry.timer = setTimeout(() => this.begin(document, entry, false), after);
  }

  private begin(document: string, entry: Entry, hurry: boolean): void {
    const { write } = entry;
    if (entry.timer) clearTimeout(entry.timer);
    entry.timer = null;
    if (!write) return;
    entry.write = null;
    entry.began = performance.now();
    entry.count += 1;
    const number = entry.count;
    const writing = write(hurry)
      .then(
        () => {
          entry.written = Math.max(entry.written, number);
          entry.failures = 0;
          return null;
        },
        (error: unknown) => ({ error }),
      )
      .then((failed) => {
        entry.writing.delete(writing);
        if (this.entries.get(document) !== entry) return;
        if (!failed) {
          if (!entry.write && entry.written === entry.count) this.tell(document, { saved: true });
          return;
        }
        // a newer state that was written, is being written or waits takes its place
        if (entry.written > number || entry.writing.size > 0) return;
        entry.write ??= write;
        entry.failures += 1;
        this.tell(document, { saved: false, error: failed.error });
        this.schedule(document, entry, Math.min(LONGEST_RETRY_MS, FIRST_RETRY_MS * 2 ** (entry.failures - 1)));
      });
    entry.writing.add(writing);
  }
}
