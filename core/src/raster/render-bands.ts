import type { Correction } from '../correction/schema';
import { composeWarp, type Warp } from '../crop/compose-warp';
import type { Raster } from './raster';
import { prepareSource, renderRows, type PreparedSource } from './render-rows';
import { rowsNeeded } from './rows-needed';

/** What a render worker is given: the source and, in memory that workers may share, a counter of bands and, where it is held whole, the result. */
export interface RenderWork {
  readonly correction: Correction;
  readonly source: Raster;
  readonly channels: Raster['channels'];
  /** One element: how many rows of the source there are by now, from the top; null where all are. */
  readonly arrived: Int32Array | null;
  /** Where the whole result goes; null where each band is handed over in memory of its own. */
  readonly out: Uint8Array | Uint16Array | null;
  /** Rows a band: a multiple of {@link BAND_ROWS}. */
  readonly rows: number;
  /** One element: the next band that nobody has taken. */
  readonly nextBand: Int32Array;
}

/** Least rows a band: a tile of the kernel, so that every band is drawn as it is in the whole. */
export const BAND_ROWS = 64;

/** A band of a result, from the top. */
export interface DrawnBand {
  readonly index: number;
  /** Where the result is not held whole its samples are gone when the next band is asked for. */
  readonly raster: Raster;
}

/**
 * Takes bands from the shared counter until none is left, and draws them.
 * @param warp the correction's, where it has been composed before
 */
export function* drawnBands(
  { correction, source, arrived, channels, out, rows, nextBand }: RenderWork,
  warp: Warp = composeWarp(correction, correction.picture),
): Generator<DrawnBand> {
  const { width, height } = warp.outputSize;
  let prepared: PreparedSource | null = null;
  const row = width * channels;
  const own = out ? null : resultSamples(row * Math.min(rows, height), source.data instanceof Uint16Array ? 16 : 8, false);
  for (;;) {
    const index = Atomics.add(nextBand, 0, 1);
    const from = index * rows;
    if (from >= height) return;
    const to = Math.min(height, from + rows);
    if (arrived) waitFor(arrived, rowsNeeded(correction, warp, from, to));
    prepared ??= prepareSource(source, warp, correction.output.light);
    const data = own ? own.subarray(0, (to - from) * row) : (out as Uint8Array).subarray(from * row, to * row);
    own?.fill(0);
    renderRows(prepared, warp, correction, channels, from, to, data);
    yield { index, raster: { width, height: to - from, channels, data } };
  }
}

/** Waits until there are so many rows; only threads that others feed may. */
function waitFor(arrived: Int32Array, rows: number): void {
  for (let there = Atomics.load(arrived, 0); there < rows; there = Atomics.load(arrived, 0)) Atomics.wait(arrived, 0, there);
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
