import { viewOf } from './bytes';

/** One entry of an image file directory: tag, type, count and the raw value bytes in the block's own byte order. */
export interface Entry {
  readonly tag: number;
  readonly type: number;
  readonly count: number;
  readonly value: Uint8Array;
  /** Offset of the value field when the value is stored elsewhere; copied entries keep pointing there. */
  readonly inline: Uint8Array;
}

/** Bytes of one value of a type (TIFF 6.0, section 2). */
const TYPE_SIZES: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8 };

/** A directory has no more entries than this; the format allows more, no writer writes them. */
const MOST_ENTRIES = 4096;

/** A TIFF structure: its bytes, byte order, and where its first directory lies. */
export interface Block {
  readonly view: DataView;
  readonly bytes: Uint8Array;
  readonly little: boolean;
  readonly firstIfd: number;
}

/** The block's byte order and its first directory; null when it is no TIFF structure. */
export function openBlock(bytes: Uint8Array): Block | null {
  if (bytes.length < 8) return null;
  const little = bytes[0] === 0x49 && bytes[1] === 0x49;
  if (!little && !(bytes[0] === 0x4d && bytes[1] === 0x4d)) return null;
  const view = viewOf(bytes);
  if (view.getUint16(2, little) !== 42) return null;
  return { view, bytes, little, firstIfd: view.getUint32(4, little) };
}

/** The entries of a directory; those that point outside are left out. */
export function readDirectory({ view, bytes, little }: Block, at: number): Entry[] {
  if (at < 8 || at + 2 > bytes.length) return [];
  const count = Math.min(MOST_ENTRIES, view.getUint16(at, little));
  const entries: Entry[] = [];
  for (let i = 0; i < count; i += 1) {
    const p = at + 2 + i * 12;
    if (p + 12 > bytes.length) break;
    const [type, n] = [view.getUint16(p + 2, little), view.getUint32(p + 4, little)];
    const size = (TYPE_SIZES[type] ?? 1) * n;
    const from = size <= 4 ? p + 8 : view.getUint32(p + 8, little);
    if (from + size > bytes.length) continue;
    entries.push({
      tag: view.getUint16(p, little),
      type,
      count: n,
      value: bytes.subarray(from, from + size),
      inline: bytes.slice(p + 8, p + 12),
    });
  }
  return entries;
}

/** The first value of an entry as a number; null where there is none, or it is no number. */
export function numberOf(block: Block, entries: readonly Entry[], tag: number): number | null {
  const entry = entries.find((e) => e.tag === tag);
  if (!entry || entry.count < 1) return null;
  const view = viewOf(entry.value);
  switch (entry.type) {
    case 3:
      return view.getUint16(0, block.little);
    case 4:
      return view.getUint32(0, block.little);
    // some writers use the signed types
    case 8:
      return view.getInt16(0, block.little);
    case 9:
      return view.getInt32(0, block.little);
    case 5: {
      const denominator = view.getUint32(4, block.little);
      return denominator === 0 ? null : view.getUint32(0, block.little) / denominator;
    }
    case 10: {
      const denominator = view.getInt32(4, block.little);
      return denominator === 0 ? null : view.getInt32(0, block.little) / denominator;
    }
    default:
      return null;
  }
}

/** An entry's text; null where there is none. */
export function textOf(entries: readonly Entry[], tag: number): string | null {
  const entry = entries.find((e) => e.tag === tag && e.type === 2);
  if (!entry) return null;
  const text = new TextDecoder('utf-8').decode(entry.value).replace(/\0+$/, '').trim();
  return text === '' ? null : text;
}

/** All values of an entry as whole numbers (bytes, shorts or longs). */
export function numbersOf(block: Block, entries: readonly Entry[], tag: number): number[] | null {
  const entry = entries.find((e) => e.tag === tag);
  if (!entry) return null;
  const size = TYPE_SIZES[entry.type];
  const view = viewOf(entry.value);
  if (size === 1) return Array.from(entry.value);
  if (size === 2) return Array.from({ length: entry.count }, (_, i) => view.getUint16(2 * i, block.little));
  return size === 4 ? Array.from({ length: entry.count }, (_, i) => view.getUint32(4 * i, block.little)) : null;
}

/** Where the directory after the one at `at` lies; 0 for none. */
export function nextDirectory({ view, bytes, little }: Block, at: number): number {
  if (at < 8 || at + 2 > bytes.length) return 0;
  const end = at + 2 + view.getUint16(at, little) * 12;
  return end + 4 <= bytes.length ? view.getUint32(end, little) : 0;
}

/** An entry as it is written: its value, or where that lies, in four bytes. */
export type WrittenEntry = Pick<Entry, 'tag' | 'type' | 'count' | 'inline'>;

/** A directory's bytes, entries in the order of their tags, none after it. */
export function directoryBytes(entries: readonly WrittenEntry[], little: boolean): Uint8Array<ArrayBuffer> {
  const all = [...entries].sort((p, q) => p.tag - q.tag);
  const out = new Uint8Array(2 + all.length * 12 + 4);
  const view = viewOf(out);
  view.setUint16(0, all.length, little);
  all.forEach((e, i) => {
    const p = 2 + i * 12;
    view.setUint16(p, e.tag, little);
    view.setUint16(p + 2, e.type, little);
    view.setUint32(p + 4, e.count, little);
    out.set(e.inline, p + 8);
  });
  return out;
}

/** One short or long as an entry's four bytes. */
export function inlineNumber(value: number, type: 3 | 4, little: boolean): Uint8Array {
  const out = new Uint8Array(4);
  if (type === 3) viewOf(out).setUint16(0, value, little);
  else viewOf(out).setUint32(0, value, little);
  return out;
}

/** Shorts or longs in a row, in a block's byte order. */
export function numberBytes(values: readonly number[], type: 3 | 4, little: boolean): Uint8Array {
  const out = new Uint8Array(values.length * (type === 3 ? 2 : 4));
  const view = viewOf(out);
  values.forEach((value, i) => (type === 3 ? view.setUint16(2 * i, value, little) : view.setUint32(4 * i, value, little)));
  return out;
}
