type Held = (lock: object | null) => unknown;

interface Waiting {
  readonly grant: () => void;
  readonly signal: AbortSignal | undefined;
}

interface Named {
  /** Takes the lock away from who holds it; null while nobody does. */
  steal: (() => void) | null;
  readonly waiting: Waiting[];
}

/** The locks of a browser, shared by the tabs of a test; as far as the application uses them (Web Locks API, W3C working draft). */
const names = new Map<string, Named>();

/** The locks as one tab has them. */
export class FakeLocks {
  request(name: string, options: { ifAvailable?: boolean; steal?: boolean; signal?: AbortSignal }, held: Held): Promise<unknown> {
    const lock = names.get(name) ?? { steal: null, waiting: [] };
    names.set(name, lock);
    return new Promise((resolve, reject) => {
      const grant = (): void => {
        let stolen = false;
        lock.steal = () => {
          stolen = true;
          reject(new DOMException('stolen', 'AbortError'));
        };
        void Promise.resolve(held({}))
          .then(resolve, reject)
          .finally(() => {
            if (stolen) return;
            lock.steal = null;
            lock.waiting.shift()?.grant();
          });
      };
      if (options.steal) {
        lock.steal?.();
        grant();
      } else if (!lock.steal) grant();
      else if (options.ifAvailable) void Promise.resolve(held(null)).then(resolve, reject);
      else {
        const entry: Waiting = { grant, signal: options.signal };
        lock.waiting.push(entry);
        options.signal?.addEventListener('abort', () => {
          if (!lock.waiting.includes(entry)) return;
          lock.waiting.splice(lock.waiting.indexOf(entry), 1);
          reject(new DOMException('aborted', 'AbortError'));
        });
      }
    });
  }
}
