import { growTo, startWasm, type Raster, type Size, type WasmMemory } from '@able-plumb/core';
import { joinBytes } from './bytes';
import { JPEG_BASE64 } from './jpeg-bytes';
import { codesOf, HUFFMAN, stepsOf, ZIGZAG } from './jpeg-tables';

/** How a JPEG is written. */
export interface JpegOptions {
  /** 1..100. */
  readonly quality: number;
  /** Colour at full (4:4:4) or half resolution (4:2:0). */
  readonly chroma: '4:4:4' | '4:2:0';
  /** Made as small as its quality allows: a second pass over the whole picture, many times as slow. */
  readonly smallest?: boolean | undefined;
}

/** What kernel/assembly/jpeg.ts exports; pointers are byte offsets into its memory. */
interface JpegExports {
  lay(width: number, channels: number, half: number, planes: number, divisors: number, codes: number, block: number): void;
  begin(): void;
  row(source: number, rows: number, out: number): number;
  finish(out: number): number;
}

interface Kernel {
  readonly exports: JpegExports;
  readonly memory: WasmMemory;
}

let here: Kernel | null | undefined;
const kernel = (): Kernel | null => (here === undefined ? (here = startWasm<JpegExports>(JPEG_BASE64, 2)) : here);

/** Whether this platform codes JPEGs in bands. */
export const codesBands = (): boolean => kernel() !== null;

/** Most units between two restarts (T.81, B.2.4.4). */
const MOST_UNITS = 65535;
const MOST_ROWS = 256;

const unitOf = (channels: 1 | 3, { chroma }: JpegOptions): number => (channels === 3 && chroma === '4:2:0' ? 16 : 8);

/** Rows a band: what may stand between two restarts, so that bands can be coded each by itself; a multiple of 64. */
export function jpegBandRows(width: number, channels: 1 | 3, options: JpegOptions): number {
  const unit = unitOf(channels, options);
  const most = Math.floor(MOST_UNITS / Math.ceil(width / unit)) * unit;
  return Math.min(MOST_ROWS, most - (most % 64));
}

/** Coded bytes that stay in the kernel's memory before they are taken out: most bands are taken at once. */
const KEPT_BYTES = 1 << 20;

/** Most bytes that 64 samples come to: 26 bits each, every byte of ones followed by a zero. */
const MOST_BLOCK_BYTES = 64 * 6.5;

/**
 * Codes bands of a width, each by itself: coefficients and codes are those of libjpeg with its accurate transform and the tables of T.81, annex K.
 * @returns what stands between two restart markers for a band of 8-bit samples
 * @throws Error where {@link codesBands} is false
 */
export function jpegBandCoder(width: number, channels: 1 | 3, options: JpegOptions): (band: Raster) => Uint8Array<ArrayBuffer> {
  const started = kernel();
  if (!started) throw new Error('JPEG bands need WebAssembly with SIMD.');
  const { exports, memory } = started;
  const unit = unitOf(channels, options);
  let end = 64;
  const room = (bytes: number): number => {
    const at = end;
    end += (bytes + 63) & ~63;
    return at;
  };
  const planes = room(channels * 16 * ((width + 31) & ~15) * 2);
  const divisors = room(4 * 256);
  const codes = room(4 * 1024);
  const block = room(128);
  const source = room(width * channels * unit + 32);
  const longestRow = Math.ceil(width / unit) * ((unit * unit) / 64) * channels * MOST_BLOCK_BYTES + 64;
  const out = room(KEPT_BYTES + longestRow);
  growTo(memory, end);
  const lay = (): void => {
    stepsOf(options.quality).forEach((steps, k) => {
      const table = new Float32Array(memory.buffer, divisors + k * 512, 128);
      steps.forEach((step, i) => {
        // coefficients come eight times as large; the half that is added on top keeps quotients clear of whole numbers
        table[i] = step * 4 + 0.5;
        table[64 + i] = 1 / (step * 8);
      });
    });
    HUFFMAN.forEach((table, k) => new Uint32Array(memory.buffer, codes + k * 1024, 256).set(codesOf(table)));
    exports.lay(width, channels, unit === 16 ? 1 : 0, planes, divisors, codes, block);
  };
  return ({ height, data }) => {
    // another coder of this thread may have laid out the memory since
    lay();
    exports.begin();
    const parts: Uint8Array<ArrayBuffer>[] = [];
    const memoryBytes = new Uint8Array(memory.buffer);
    let kept = 0;
    const take = (): void => {
      parts.push(memoryBytes.slice(out, out + kept));
      kept = 0;
    };
    for (let y = 0; y < height; y += unit) {
      const rows = Math.min(unit, height - y);
      memoryBytes.set(data.subarray(y * width * channels, (y + rows) * width * channels), source);
      kept += exports.row(source, rows, out + kept);
      if (kept > KEPT_BYTES - 64) take();
    }
    kept += exports.finish(out + kept);
    take();
    return parts.length === 1 ? (parts[0] as Uint8Array<ArrayBuffer>) : joinBytes(parts);
  };
}

const marked = (marker: number, body: readonly number[]): number[] => [
  0xff,
  marker,
  (body.length + 2) >> 8,
  (body.length + 2) & 255,
  ...body,
];

/** What stands before the first band: size, tables, where restarts are. */
export function jpegHead({ width, height }: Size, channels: 1 | 3, bandRows: number, options: JpegOptions): Uint8Array<ArrayBuffer> {
  const unit = unitOf(channels, options);
  const tables = stepsOf(options.quality).slice(0, channels === 1 ? 1 : 2);
  const sampling = unit === 16 ? 0x22 : 0x11;
  const used = HUFFMAN.slice(0, channels === 1 ? 2 : 4);
  const units = (Math.ceil(width / unit) * bandRows) / unit;
  return Uint8Array.from([
    ...[0xff, 0xd8],
    // JFIF 1.02, no unit, densities of 1, no thumbnail
    ...marked(0xe0, [0x4a, 0x46, 0x49, 0x46, 0, 1, 2, 0, 0, 1, 0, 1, 0, 0]),
    ...tables.flatMap((steps, id) => {
      const ordered = new Array<number>(64);
      steps.forEach((step, i) => (ordered[ZIGZAG[i] as number] = step));
      return marked(0xdb, [id, ...ordered]);
    }),
    ...marked(0xc0, [
      8,
      height >> 8,
      height & 255,
      width >> 8,
      width & 255,
      channels,
      ...(channels === 1 ? [1, 0x11, 0] : [1, sampling, 0, 2, 0x11, 1, 3, 0x11, 1]),
    ]),
    ...used.flatMap(({ id, counts, symbols }) => marked(0xc4, [id, ...counts, ...symbols])),
    ...(bandRows < height ? marked(0xdd, [units >> 8, units & 255]) : []),
    ...marked(0xda, [channels, ...(channels === 1 ? [1, 0] : [1, 0, 2, 0x11, 3, 0x11]), 0, 63, 0]),
  ]);
}

/** The mark between a band and the next. */
export const restart = (index: number): Uint8Array<ArrayBuffer> => Uint8Array.of(0xff, 0xd0 + (index & 7));

export const JPEG_END = Uint8Array.of(0xff, 0xd9);
