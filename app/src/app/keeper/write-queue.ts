/** A document that changes all the time is written this often at most, ms. The first change after a pause is written at once. */
const GAP_MS = 100;
/** A write that failed is tried again after this long, ms, then after twice as long, and so on. */
const FIRST_RETRY_MS = 1000;
const LONGEST_RETRY_MS = 30_000;

interface Entry {
  /** What is to be written; null once that has begun. */
  write: ((hurry: boolean) => Promise<void>) | null;
  timer: ReturnType<typeof setTimeout> | null;
  writing: Promise<void> | null;
  began: number;
  failures: number;
}

/** What the queue tells of a document. */
export type Told = { readonly saved: true } | { readonly saved: false; readonly error: unknown };

/**
 * The one queue of writes to the shelf. A document is told to be saved when its own newest state is written, and not before; one that
 * fails is tried again, and holds up no other.
 */
export class WriteQueue {
  private readonly entries = new Map<string, Entry>();

  constructor(private readonly tell: (document: string, told: Told) => void) {}

  /**
   * Notes that a document changed.
   *
   * @param write puts the state of that moment onto the shelf; true asks it to do so without looking first, since the page is going
   */
  put(document: string, write: (hurry: boolean) => Promise<void>): void {
    const entry = this.entries.get(document) ?? { write: null, timer: null, writing: null, began: -Infinity, failures: 0 };
    this.entries.set(document, entry);
    entry.write = write;
    if (entry.writing) return;
    this.schedule(document, entry, entry.failures > 0 ? 0 : Math.max(0, entry.began + GAP_MS - performance.now()));
  }

  /** What was to be written of a document is not to be any more. */
  drop(document: string): void {
    const entry = this.entries.get(document);
    if (entry?.timer) clearTimeout(entry.timer);
    if (entry) entry.write = null;
    if (!entry?.writing) this.entries.delete(document);
  }

  /** Writes at once what waits; resolves when nothing waits or is being written, or failed. */
  async flush(hurry = false): Promise<void> {
    for (const [document, entry] of this.entries) if (entry.write && (hurry || !entry.writing)) this.begin(document, entry, hurry);
    while ([...this.entries.values()].some((entry) => entry.writing))
      await Promise.all([...this.entries.values()].map((entry) => entry.writing));
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
    const writing = write(hurry).then(
      () => {
        if (entry.writing === writing) entry.writing = null;
        entry.failures = 0;
        if (entry.write) this.schedule(document, entry, Math.max(0, entry.began + GAP_MS - performance.now()));
        else if (!entry.writing) this.tell(document, { saved: true });
      },
      (error: unknown) => {
        if (entry.writing === writing) entry.writing = null;
        // a newer state takes its place
        entry.write ??= write;
        entry.failures += 1;
        this.tell(document, { saved: false, error });
        this.schedule(document, entry, Math.min(LONGEST_RETRY_MS, FIRST_RETRY_MS * 2 ** (entry.failures - 1)));
      },
    );
    entry.writing = writing;
  }
}
