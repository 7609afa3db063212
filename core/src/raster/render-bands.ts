import type { Correction } from '../correction/schema';
import { composeWarp, type Warp } from '../crop/compose-warp';
import type { Raster } from './raster';
import { prepareSource, renderRows } from './render-rows';

/** What a render worker is given: the source and, in memory that workers may share, the result and a counter of bands. */
export interface RenderWork {
  readonly correction: Correction;
  readonly source: Raster;
  readonly channels: Raster['channels'];
  readonly out: Uint8Array | Uint16Array;
  /** One element: the next band that nobody has taken. */
  readonly nextBand: Int32Array;
}

/** Rows a band. */
export const BAND_ROWS = 64;

/**
 * Takes bands from the shared counter until none is left and writes them into the result.
 * @param onRows called after each band with the number of rows in it
 * @param warp the correction's, where it has been composed before
 */
export function renderBands(
  { correction, source, channels, out, nextBand }: RenderWork,
  onRows: (rows: number) => void = () => undefined,
  warp: Warp = composeWarp(correction, correction.picture),
): void {
  const prepared = prepareSource(source, warp, correction.output.light);
  const { width, height } = warp.outputSize;
  for (;;) {
    const from = Atomics.add(nextBand, 0, 1) * BAND_ROWS;
    if (from >= height) return;
    const to = Math.min(height, from + BAND_ROWS);
    renderRows(prepared, warp, correction, channels, from, to, out.subarray(from * width * channels, to * width * channels));
    onRows(to - from);
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
