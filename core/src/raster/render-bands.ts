import type { Correction } from '../correction/schema';
import { composeWarp, type Warp } from '../crop/compose-warp';
import type { Raster, Source } from './raster';
import { prepareSource, renderRows, type PreparedSource } from './render-rows';
import { rowsRead } from './rows-read';

/** What a render worker is given: the source and, in memory that workers may share, a counter of bands and, where it is held whole, the result. */
export interface RenderWork {
  readonly correction: Correction;
  readonly source: Source;
  readonly channels: Raster['channels'];
  /** Of a source that is still being decoded; null where all of it is there. */
  readonly arrival: Arrival | null;
  /** Where the whole result goes; null where each band is handed over in memory of its own. */
  readonly out: Uint8Array | Uint16Array | null;
  /** Rows a band: a multiple of {@link BAND_ROWS}. */
  readonly rows: number;
  /** One element: the next band that nobody has taken. */
  readonly nextBand: Int32Array;
}

/** How far a source has been decoded, and who still reads it: in memory that workers share. */
export interface Arrival {
  /** One element: how many rows of the source there have been by now, from the top. */
  readonly there: Int32Array;
  /** For each band the first row that it reads, and the one behind the last. */
  readonly reads: Int32Array;
  /** For each band 1 when it is drawn: what it read may be overwritten. */
  readonly drawn: Int32Array;
}

/** Least rows a band: a tile of the kernel, so that every band is drawn as it is in the whole. */
export const BAND_ROWS = 64;

/** A band of a result, from the top. */
export interface DrawnBand {
  readonly index: number;
  /** Where the result is not held whole its samples are gone when the next band is drawn. */
  readonly raster: Raster;
}

/**
 * What draws bands of a work, one after the other.
 * @param warp the correction's, where it has been composed before
 */
export function bandDrawer(
  { correction, source, arrival, channels, out, rows }: RenderWork,
  warp: Warp = composeWarp(correction, correction.picture),
): (index: number) => DrawnBand {
  const { width, height } = warp.outputSize;
  let prepared: PreparedSource | null = null;
  const row = width * channels;
  const own = out ? null : resultSamples(row * Math.min(rows, height), source.data instanceof Uint16Array ? 16 : 8, false);
  return (index) => {
    const from = index * rows;
    const to = Math.min(height, from + rows);
    prepared ??= prepareSource(source, warp, correction.output.light);
    const data = own ? own.subarray(0, (to - from) * row) : (out as Uint8Array).subarray(from * row, to * row);
    own?.fill(0);
    renderRows(prepared, warp, correction, channels, from, to, data);
    if (arrival) Atomics.store(arrival.drawn, index, 1);
    return { index, raster: { width, height: to - from, channels, data } };
  };
}

/**
 * Takes bands from the shared counter until none is left, and draws them; waits for the rows that they read, which only threads that others
 * feed may.
 * @param warp the correction's, where it has been composed before
 */
export function* drawnBands(work: RenderWork, warp: Warp = composeWarp(work.correction, work.correction.picture)): Generator<DrawnBand> {
  const draw = bandDrawer(work, warp);
  const count = Math.ceil(warp.outputSize.height / work.rows);
  for (;;) {
    const index = Atomics.add(work.nextBand, 0, 1);
    if (index >= count) return;
    const there = work.arrival?.there;
    if (there) for (let rows = 0; (rows = Atomics.load(there, 0)) < lastRead(work, index);) Atomics.wait(there, 0, rows);
    yield draw(index);
  }
}

/** Takes the next band from the shared counter if the rows that it reads are there; null otherwise. */
export function takeBand(work: RenderWork, count: number): number | null {
  for (;;) {
    const index = Atomics.load(work.nextBand, 0);
    if (index >= count || (work.arrival && Atomics.load(work.arrival.there, 0) < lastRead(work, index))) return null;
    if (Atomics.compareExchange(work.nextBand, 0, index, index + 1) === index) return index;
  }
}

const lastRead = ({ arrival }: RenderWork, index: number): number => arrival?.reads[2 * index + 1] ?? 0;

/** What is told of a source while it is decoded; nothing of it is there yet. */
export function newArrival(correction: Correction, warp: Warp, rows: number, shared: boolean): Arrival {
  const { height } = warp.outputSize;
  const count = Math.ceil(height / rows);
  const numbers = (length: number): Int32Array => new Int32Array(shared ? new SharedArrayBuffer(4 * length) : new ArrayBuffer(4 * length));
  const reads = numbers(2 * count);
  for (let k = 0; k < count; k += 1) {
    const { from, to } = rowsRead(correction, warp, k * rows, Math.min(height, (k + 1) * rows));
    reads.set([from, to], 2 * k);
  }
  return { there: numbers(1), reads, drawn: numbers(count) };
}

/** The first row that is still to be read: by a band that is not drawn. */
export function firstStillRead({ reads, drawn }: Arrival, height: number): number {
  let first = height;
  for (let k = 0; k < drawn.length; k += 1) if (Atomics.load(drawn, k) === 0) first = Math.min(first, reads[2 * k] as number);
  return first;
}

/**
 * How many rows of a source have to lie in memory so that threads which take bands in their order can always go on.
 * @param ahead how many bands more than the first that is not drawn shall be drawn meanwhile
 * @param step how many rows are decoded at a time
 */
export function rowsToHold({ reads, drawn }: Arrival, height: number, ahead: number, step: number): number {
  const count = drawn.length;
  let [most, first] = [0, height];
  for (let k = count - 1; k >= 0; k -= 1) {
    first = Math.min(first, reads[2 * k] as number);
    for (let a = k; a <= Math.min(count - 1, k + ahead); a += 1) most = Math.max(most, (reads[2 * a + 1] as number) - first);
  }
  return Math.min(height, most + step);
}

/** Samples for a result of `length`, in memory that workers share where the platform allows it. */
export function resultSamples(length: number, bits: 8 | 16, shared: boolean): Uint8Array | Uint16Array {
  const bytes = bits === 16 ? 2 * length : length;
  const buffer = shared ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes);
  return bits === 16 ? new Uint16Array(buffer) : new Uint8Array(buffer);
}

/** The same raster with its samples in shared memory. */
export function sharedRaster(raster: Raster): Raster {
  if (raster.data.buffer instanceof SharedArrayBuffer) return raster;
  const data = resultSamples(raster.data.length, raster.data instanceof Uint16Array ? 16 : 8, true);
  data.set(raster.data);
  return { ...raster, data };
}
