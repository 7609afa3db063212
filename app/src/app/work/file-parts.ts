/** So many bytes of a file at a time are given to the browser, which keeps them elsewhere. */
const GIVEN_BYTES = 16e6;

/** A file while it is made: its parts in their order, the first of which can still be changed at the end. */
export class FileParts {
  private head: Uint8Array<ArrayBuffer> | null = null;
  private readonly given: Blob[] = [];
  private waiting: Uint8Array<ArrayBuffer>[] = [];
  private held = 0;

  constructor(private readonly givenBytes = GIVEN_BYTES) {}

  add(bytes: Uint8Array<ArrayBuffer>): void {
    if (!this.head) {
      this.head = bytes;
      return;
    }
    this.waiting.push(bytes);
    this.held += bytes.length;
    if (this.held < this.givenBytes) return;
    this.given.push(new Blob(this.waiting));
    [this.waiting, this.held] = [[], 0];
  }

  /** @param patch bytes that are known last and stand in the first part */
  file(type: string, patch: { readonly at: number; readonly bytes: Uint8Array } | null): Blob {
    if (patch) this.head?.set(patch.bytes, patch.at);
    return new Blob([...(this.head ? [this.head] : []), ...this.given, ...this.waiting], { type });
  }
}
