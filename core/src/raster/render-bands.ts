import type { Correction } from '../correction/schema';
import { composeWarp, type Warp } from '../crop/compose-warp';
import type { Raster } from './raster';
import { prepareSource, renderRows } from './render-rows';

/** What a render worker is given: the source and, in memory that workers may share, a counter of bands and, where it is held whole, the result. */
export interface RenderWork {
  readonly correction: Correction;
  readonly source: Raster;
  readonly channels: Raster['channels'];
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
  { correction, source, channels, out, rows, nextBand }: RenderWork,
  warp: Warp = composeWarp(correction, correction.picture),
): Generator<DrawnBand> {
  const prepared = prepareSource(source, warp, correction.output.light);
  const { width, height } = warp.outputSize;
  const row = width * channels;
  const own = out ? null : resultSamples(row * Math.min(rows, height), source.data instanceof Uint16Array ? 16 : 8, false);
  for (;;) {
    const index = Atomics.add(nextBand, 0, 1);
    const from = index * rows;
    if (from >= height) return;
    const to = Math.min(height, from + rows);
    const data = own ? own.subarray(0, (to - from) * row) : (out as Uint8Array).subarray(from * row, to * row);
    own?.fill(0);
    renderRows(prepared, warp, correction, channels, from, to, data);
    yield { index, raster: { width, height: to - from, channels, data } };
  }
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
