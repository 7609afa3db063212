import { growTo, startWasm, type Raster, type Size, type WasmMemory } from '@able-plumb/core';
import { hasAscii, viewOf } from './bytes';
import { JPEG_ROWS_BASE64 } from './jpeg-rows-bytes';
import { ZIGZAG } from './jpeg-tables';
import type { RowReader } from './picture-rows';

/** What kernel/assembly/jpeg-rows.ts exports; pointers are byte offsets into its memory. */
interface RowsExports {
  lay(
    width: number,
    height: number,
    channels: number,
    across: number,
    down: number,
    interval: number,
    planes: number,
    widths: number,
    factors: number,
    codes: number,
    block: number,
  ): void;
  begin(from: number, to: number): void;
  place(): number;
  goOn(from: number, to: number): void;
  read(first: number): number;
  write(from: number, to: number, out: number): void;
}

interface Kernel {
  readonly exports: RowsExports;
  readonly memory: WasmMemory;
}

let here: Kernel | null | undefined;
const kernel = (): Kernel | null => (here === undefined ? (here = startWasm<RowsExports>(JPEG_ROWS_BASE64, 2)) : here);

/** The only scan of a baseline JPEG, and its tables. */
interface Scan extends Size {
  readonly channels: 1 | 3;
  /** Samples of brightness across and down for each of colour. */
  readonly across: 1 | 2;
  readonly down: 1 | 2;
  readonly interval: number;
  /** Of each component: factors in zigzag order, and the tables of its codes. */
  readonly components: readonly { readonly factors: Uint16Array; readonly means: Uint16Array; readonly others: Uint16Array }[];
  readonly from: number;
}

/** Entries by the first ten bits, then parts of 64 by the six after them. */
const FIRST_BITS = 10;
const TABLE = (1 << FIRST_BITS) + 64 * 256;

/** A table of codes as the kernel looks them up: length times 256 plus what a code stands for; 0 for none. */
function lookup(counts: Uint8Array, symbols: Uint8Array): Uint16Array | null {
  const table = new Uint16Array(TABLE);
  let [code, next, parts] = [0, 0, 0];
  for (let length = 1; length <= 16; length += 1) {
    for (let k = 0; k < (counts[length - 1] as number); k += 1, next += 1, code += 1) {
      if (next >= symbols.length || code >> length) return null;
      const entry = (length << 8) | (symbols[next] as number);
      if (length <= FIRST_BITS) {
        const left = FIRST_BITS - length;
        table.fill(entry, code << left, (code + 1) << left);
        continue;
      }
      const first = code >> (length - FIRST_BITS);
      if (table[first] === 0) {
        table[first] = 0x8000 | parts;
        parts += 1;
      }
      const part = (1 << FIRST_BITS) + ((table[first] as number) & 0x7fff) * 64;
      const rest = (code & ((1 << (length - FIRST_BITS)) - 1)) << (16 - length);
      table.fill(entry, part + rest, part + rest + (1 << (16 - length)));
    }
    code *= 2;
  }
  return table;
}

/** Reads the headers of a JPEG; null for all that is not baseline with one scan, three colours or grey, of the usual proportions. */
function scanOf(bytes: Uint8Array): Scan | null {
  const view = viewOf(bytes);
  const factors = new Map<number, Uint16Array>();
  const codes = new Map<number, Uint16Array>();
  let frame: (Size & { readonly parts: readonly { id: number; h: number; v: number; q: number }[] }) | null = null;
  let interval = 0;
  let at = 2;
  while (at + 4 <= bytes.length) {
    if (bytes[at] !== 0xff) return null;
    const marker = bytes[at + 1] as number;
    if (marker === 0xff) {
      at += 1;
      continue;
    }
    const end = at + 2 + view.getUint16(at + 2);
    const data = bytes.subarray(at + 4, end);
    if (end > bytes.length || marker === 0xd8 || marker === 0xd9) return null;
    if (marker === 0xc0 || marker === 0xc1) {
      if (frame || data.length < 6 || data[0] !== 8 || data.length < 6 + 3 * (data[5] as number)) return null;
      const parts = Array.from({ length: data[5] as number }, (_, c) => {
        const [id, sampling, q] = [data[6 + 3 * c] as number, data[7 + 3 * c] as number, data[8 + 3 * c] as number];
        return { id, h: sampling >> 4, v: sampling & 15, q };
      });
      frame = { height: viewOf(data).getUint16(1), width: viewOf(data).getUint16(3), parts };
    } else if (marker > 0xc1 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc) return null;
    // samples that are RGB already
    else if (marker === 0xee && hasAscii(data, 0, 'Adobe') && data[11] === 0) return null;
    else if (marker === 0xdd && data.length >= 2) interval = viewOf(data).getUint16(0);
    else if (marker === 0xdb) {
      for (let k = 0; k < data.length;) {
        const wide = (data[k] as number) >> 4;
        const values = new Uint16Array(64);
        if (k + 1 + 64 * (wide + 1) > data.length) return null;
        for (let i = 0; i < 64; i += 1) values[i] = wide ? viewOf(data).getUint16(k + 1 + 2 * i) : (data[k + 1 + i] as number);
        factors.set((data[k] as number) & 15, values);
        k += 1 + 64 * (wide + 1);
      }
    } else if (marker === 0xc4) {
      for (let k = 0; k + 17 <= data.length;) {
        const counts = data.subarray(k + 1, k + 17);
        const length = counts.reduce((sum, n) => sum + n, 0);
        const table = lookup(counts, data.subarray(k + 17, k + 17 + length));
        if (!table) return null;
        codes.set(data[k] as number, table);
        k += 17 + length;
      }
    } else if (marker === 0xda) {
      if (!frame || data.length < 4 + 2 * frame.parts.length || data[0] !== frame.parts.length) return null;
      const count = frame.parts.length;
      const [first, last, approximation] = [data[1 + 2 * count], data[2 + 2 * count], data[3 + 2 * count]];
      if (first !== 0 || last !== 63 || approximation !== 0) return null;
      const components = frame.parts.map(({ q }, c) => {
        const tables = data[2 + 2 * c] as number;
        return { factors: factors.get(q), means: codes.get(tables >> 4), others: codes.get(16 + (tables & 15)) };
      });
      const inOrder = frame.parts.every(({ id }, c) => data[1 + 2 * c] === id);
      if (!inOrder || components.some((c) => !c.factors || !c.means || !c.others)) return null;
      const shape = proportions(frame.parts);
      const { width, height } = frame;
      if (!shape || width < 1 || height < 1) return null;
      return { width, height, ...shape, interval, components: components as Scan['components'], from: end };
    }
    at = end;
  }
  return null;
}

/** Which of the usual proportions a frame has; null for others. */
function proportions(parts: readonly { id: number; h: number; v: number }[]): Pick<Scan, 'channels' | 'across' | 'down'> | null {
  const [first, ...others] = parts;
  if (!first) return null;
  // a single component goes block by block, whatever its factors
  if (others.length === 0) return { channels: 1, across: 1, down: 1 };
  if (others.length !== 2 || others.some(({ h, v }) => h !== 1 || v !== 1)) return null;
  if (parts.map(({ id }) => String.fromCharCode(id)).join('') === 'RGB') return null;
  const { h, v } = first;
  return (h === 1 && v === 1) || (h === 2 && (v === 1 || v === 2)) ? { channels: 3, across: h, down: v } : null;
}

/** Bytes that a block can take: 64 numbers, each a code of 16 bits and 15 bits more, with a zero behind every byte. */
const MOST_OF_A_BLOCK = 496;

/** Rows copied out at a time, at least. */
const COPIED_ROWS = 64;

/** Whose turn the kernel's memory is. */
let turn = 0;

/**
 * Decodes a baseline JPEG at once: pixels are those of libjpeg with its accurate transform and smooth upsampling.
 * @param grey whether a file of one component becomes a grey raster; RGB otherwise
 * @returns null for what a more patient decoder has to look at: other kinds, damage, no WebAssembly with SIMD
 */
export function decodeBaseline(bytes: Uint8Array, grey = false): Raster | null {
  const reader = baselineRows(bytes, grey);
  if (!reader) return null;
  const { width, height, channels } = reader;
  const data = new Uint8Array(width * height * channels);
  for (let at = 0; at < data.length;) {
    const rows = reader.next();
    if (!rows) return null;
    data.set(rows, at);
    at += rows.length;
  }
  return { width, height, channels, data };
}

/**
 * Rows of a baseline JPEG, RGB as stored, or grey where that was asked for; one at a time on each thread. Damage is for a more patient decoder.
 * @param grey as for {@link decodeBaseline}
 * @returns null for other kinds and without WebAssembly with SIMD
 */
export function baselineRows(bytes: Uint8Array, grey = false): StoredRows | null {
  const reader = readRows(bytes);
  if (!reader || reader.channels === 3 || grey) return reader;
  const widened = new Uint8Array(3 * reader.width * reader.step);
  return {
    ...reader,
    channels: 3,
    next: () => {
      const made = reader.next();
      if (made) for (let k = 0, to = 0; k < made.length; k += 1, to += 3) widened.fill(made[k] as number, to, to + 3);
      return made && widened.subarray(0, 3 * made.length);
    },
  };
}

/** Rows as they come from the kernel, at once. */
interface StoredRows extends RowReader {
  readonly channels: 1 | 3;
  next(): Uint8Array | null;
}

function readRows(bytes: Uint8Array): StoredRows | null {
  const scan = scanOf(bytes);
  const started = scan && kernel();
  if (!scan || !started) return null;
  const { width, height, channels, across, down, interval, components, from } = scan;
  // so narrow ones are widened otherwise
  if (across === 2 && width <= 4) return null;
  const { exports, memory } = started;
  let end = 64;
  const room = (length: number): number => {
    const at = end;
    end += (length + 127) & ~63;
    return at;
  };
  const stride = (width + 47) & ~15;
  const unit = 8 * down;
  const rows = Math.max(COPIED_ROWS, unit);
  const units = Math.ceil(width / (8 * across));
  const most = units * (MOST_OF_A_BLOCK * (channels === 1 ? 1 : across * down + 2) + 4);
  // what is decoded stands there in parts
  const window = Math.min(bytes.length - from, 2 * most);
  const at = {
    planes: room(stride * 64),
    widths: room(stride * 4),
    factors: room(3 * 128),
    codes: room(6 * TABLE * 2),
    block: room(128 + 80),
    out: room((rows + unit) * width * channels + 48),
    data: room(window + 16),
  };
  try {
    growTo(memory, end);
  } catch {
    return null;
  }
  const held = new Uint8Array(memory.buffer);
  const order = held.subarray(at.block + 128, at.block + 128 + 80);
  ZIGZAG.forEach((place, natural) => (order[place] = natural));
  components.forEach(({ factors, means, others }, c) => {
    const natural = new Int16Array(memory.buffer, at.factors + c * 128, 64);
    ZIGZAG.forEach((place, i) => (natural[i] = factors[place] as number));
    const tables = new Uint16Array(memory.buffer, at.codes + c * 4 * TABLE, 2 * TABLE);
    tables.set(means);
    tables.set(others, TABLE);
  });
  exports.lay(width, height, channels, across, down, interval, at.planes, at.widths, at.factors, at.codes, at.block);
  let [lies, given, written, first] = [from, 0, 0, 0];
  const ends = (): number => Math.min(bytes.length, lies + window);
  const fill = (): number => {
    held.set(bytes.subarray(lies, ends()), at.data);
    return at.data + ends() - lies;
  };
  exports.begin(at.data, fill());
  /** A row of units always finds what it may take. */
  const refill = (): void => {
    const next = lies + exports.place() - at.data;
    if (ends() === bytes.length || ends() - next >= most) return;
    lies = next;
    exports.goOn(at.data, fill());
  };
  const row = width * channels;
  turn += 1;
  const mine = turn;
  return {
    width,
    height,
    channels,
    bits: 8,
    step: rows + unit,
    next: () => {
      if (mine !== turn) throw new Error('Another JPEG was begun on this thread before this one was decoded.');
      while (first < height) {
        refill();
        if (exports.read(first)) return null;
        first += unit;
        const last = first >= height;
        // the last row of halved colour needs the next one
        const ready = last ? height : first - (down === 2 ? 1 : 0);
        exports.write(written, ready, at.out + (written - given) * row);
        written = ready;
        if (written - given < rows && !last) continue;
        const made = held.subarray(at.out, at.out + (written - given) * row);
        given = written;
        return made;
      }
      return null;
    },
  };
}
