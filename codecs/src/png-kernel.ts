import { growTo, startWasm, WASM_PAGE, type Raster, type WasmMemory } from '@able-plumb/core';
import { PNG_BASE64 } from './png-bytes';

/** What kernel/assembly/png.ts exports; pointers are byte offsets into its memory. */
interface PngExports {
  turnBytes(from: number, to: number): void;
  filterRows(from: number, rows: number, length: number, step: number, out: number): void;
  restoreRows(from: number, rows: number, length: number, step: number, out: number): number;
  makeTable(): void;
  crc(from: number, to: number, before: number): number;
}

interface Kernel {
  readonly exports: PngExports;
  readonly memory: WasmMemory;
}

/** Where bytes go in the kernel's memory, and how many beyond them may be read and written. */
const IN = WASM_PAGE;
const BEYOND = 16;

let here: Kernel | null | undefined;

/** The kernel with memory up to `end`; null where WebAssembly is missing. */
function kernelTo(end: number): Kernel | null {
  if (here === undefined) {
    here = startWasm<PngExports>(PNG_BASE64, 2);
    here?.exports.makeTable();
  }
  if (here) growTo(here.memory, end);
  return here;
}

/**
 * Rows as a PNG packs them (ISO/IEC 15948, 9): a byte for the filter, then differences. Each by Sub, Up, Average or Paeth, whichever has the
 * smallest sum of absolute differences; the first by Sub, which needs no other; all by Sub where WebAssembly is missing.
 * @param samples rows of 8 or 16 bit samples, one after the other
 * @param rowLength bytes of a row
 * @param step bytes of a pixel
 */
export function filterRows(samples: Raster['data'], rowLength: number, step: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  const rows = bytes.length / rowLength;
  const out = IN + bytes.length + BEYOND;
  const length = rows * (rowLength + 1);
  const kernel = kernelTo(out + length + BEYOND);
  if (!kernel) return filterPlainly(samples, rowLength, step);
  const inside = new Uint8Array(kernel.memory.buffer);
  inside.set(bytes, IN);
  if (samples instanceof Uint16Array) kernel.exports.turnBytes(IN, IN + bytes.length);
  kernel.exports.filterRows(IN, rows, rowLength, step, out);
  return inside.slice(out, out + length);
}

/** {@link filterRows} by Sub alone. */
export function filterPlainly(samples: Raster['data'], rowLength: number, step: number): Uint8Array<ArrayBuffer> {
  const bytes =
    samples instanceof Uint16Array
      ? Uint8Array.from({ length: samples.byteLength }, (_, k) => (samples[k >> 1] as number) >> (k & 1 ? 0 : 8))
      : samples;
  const rows = bytes.length / rowLength;
  const out = new Uint8Array(rows * (rowLength + 1));
  for (let j = 0, to = 0; j < rows; j += 1) {
    const row = bytes.subarray(j * rowLength, (j + 1) * rowLength);
    out[to++] = 1;
    for (let k = 0; k < rowLength; k += 1) out[to++] = (row[k] as number) - (k >= step ? (row[k - step] as number) : 0);
  }
  return out;
}

/**
 * Samples of rows as {@link filterRows} makes them.
 * @param filtered whole rows, one after the other
 * @param above bytes of the row above them, zeros for none
 * @param bits of a sample
 * @returns null for a filter that there is not, and where WebAssembly is missing
 */
export function restoreRows(filtered: Uint8Array, above: Uint8Array, step: number, bits: 8 | 16): RestoredRows | null {
  const rowLength = above.length;
  const rows = filtered.length / (rowLength + 1);
  const out = IN + filtered.length + BEYOND + rowLength;
  const length = rows * rowLength;
  const kernel = kernelTo(out + length + BEYOND);
  if (!kernel) return null;
  const inside = new Uint8Array(kernel.memory.buffer);
  inside.set(filtered, IN);
  inside.set(above, out - rowLength);
  if (kernel.exports.restoreRows(IN, rows, rowLength, step, out) < rows) return null;
  const last = inside.slice(out + length - rowLength, out + length);
  if (bits === 16) kernel.exports.turnBytes(out, out + length);
  const bytes = inside.slice(out, out + length);
  return { samples: bits === 16 ? new Uint16Array(bytes.buffer) : bytes, last };
}

/** Rows that were restored, and bytes of the last as the next filter wants them. */
export interface RestoredRows {
  readonly samples: Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;
  readonly last: Uint8Array;
}

/** Bytes that are summed up at a time: a chunk may be a whole file. */
const SUMMED = 1 << 16;

/** CRC-32 as in ISO/IEC 15948, annex D. */
export function crc32(bytes: Uint8Array): number {
  const kernel = kernelTo(IN + SUMMED);
  if (!kernel) return crcPlainly(bytes);
  const inside = new Uint8Array(kernel.memory.buffer);
  let sum = 0;
  for (let from = 0; from < bytes.length; from += SUMMED) {
    const some = bytes.subarray(from, from + SUMMED);
    inside.set(some, IN);
    sum = kernel.exports.crc(IN, IN + some.length, sum);
  }
  return sum >>> 0;
}

let crcTable: Uint32Array | null = null;

/** {@link crc32}, a byte at a time. */
export function crcPlainly(bytes: Uint8Array): number {
  crcTable ??= Uint32Array.from({ length: 256 }, (_, n) => {
    let c = n;
    for (let k = 0; k < 8; k += 1) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    return c >>> 0;
  });
  let crc = 0xffffffff;
  for (const byte of bytes) crc = (crcTable[(crc ^ byte) & 255] as number) ^ (crc >>> 8);
  return (crc ^ 0xffffffff) >>> 0;
}
