import type { Raster, Size } from '@able-plumb/core';

/** Size and kind of the pixels of a file. */
export interface Shape extends Size {
  readonly channels: Raster['channels'];
  readonly bits: 8 | 16;
}

/** Takes bytes of a file, one part after the other. */
export type Put = (bytes: Uint8Array) => void;

/** Bytes that are known last and stand before others. */
export interface Patch {
  readonly at: number;
  readonly bytes: Uint8Array;
}

/** Puts bands behind one another. */
export interface Binder {
  /** The next band, as {@link BandFile.make} made it. */
  add(band: Uint8Array<ArrayBuffer>): Promise<void>;
  /** After the last band. */
  end(): Promise<Patch | null>;
}

/** A file that is made in bands: each by any thread and by itself, bound in their order by one, so that no picture is ever held whole. */
export interface BandFile {
  /** Rows of every band but the last, which may have fewer; a multiple of 64. */
  readonly rows: number;
  /** A band of the file's own kind of samples. */
  make(band: Raster): Promise<Uint8Array<ArrayBuffer>>;
  bind(put: Put): Promise<Binder>;
}

/** Bands that come in any order, bound in theirs. */
export interface Queue {
  /** A band; one that is too early waits. @returns when all are bound that could be */
  add(index: number, band: Uint8Array<ArrayBuffer>): Promise<void>;
  /** After every band was added: ends the file when the last of them is bound. */
  end(): Promise<Patch | null>;
}

/** Binds bands that come in any order. */
export function inOrder(binder: Binder): Queue {
  const early = new Map<number, Uint8Array<ArrayBuffer>>();
  let next = 0;
  let work = Promise.resolve();
  return {
    add: (index, band) => {
      early.set(index, band);
      return (work = work.then(async () => {
        for (let ready = early.get(next); ready; ready = early.get(next)) {
          early.delete(next);
          next += 1;
          await binder.add(ready);
        }
      }));
    },
    // whoever added them need not have waited
    end: () => work.then(() => binder.end()),
  };
}
