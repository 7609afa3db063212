import { asciiBytes, joinBytes, viewOf } from './bytes';

/* Boxes of the ISO base media file format (ISO/IEC 14496-12), which AVIF and JPEG XL files are made of. */

/** A box: its type, and where it and what is in it lie. */
export interface Box {
  readonly type: string;
  readonly at: number;
  readonly from: number;
  readonly to: number;
}

/**
 * The boxes between two places.
 * @throws RangeError for one that reaches beyond
 */
export function boxesIn(bytes: Uint8Array, from: number, to: number): Box[] {
  const view = viewOf(bytes);
  const boxes: Box[] = [];
  for (let at = from; at + 8 <= to;) {
    const length = view.getUint32(at);
    const long = length === 1;
    const size = long ? Number(view.getBigUint64(at + 8)) : length === 0 ? to - at : length;
    const head = long ? 16 : 8;
    if (size < head || at + size > to) throw new RangeError('a box reaches beyond its end');
    boxes.push({ type: new TextDecoder('latin1').decode(bytes.subarray(at + 4, at + 8)), at, from: at + head, to: at + size });
    at += size;
  }
  return boxes;
}

/** A box of parts. */
export function box(type: string, ...parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = joinBytes([new Uint8Array(4), asciiBytes(type), ...parts]);
  viewOf(out).setUint32(0, out.length);
  return out;
}

/** A box with version and flags. */
export const fullBox = (type: string, version: number, ...parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> =>
  box(type, Uint8Array.of(version, 0, 0, 0), ...parts);

/** Numbers of two bytes, the high one first. */
export const words = (...values: readonly number[]): Uint8Array => Uint8Array.from(values.flatMap((v) => [(v >> 8) & 255, v & 255]));

/** Numbers of four bytes, the high one first. */
export const longs = (...values: readonly number[]): Uint8Array =>
  Uint8Array.from(values.flatMap((v) => [v >>> 24, (v >>> 16) & 255, (v >>> 8) & 255, v & 255]));
