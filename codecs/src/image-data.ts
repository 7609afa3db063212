import { hasAlpha, largestSample, type Raster } from '@able-plumb/core';

/** Decoders hand their pixels out in the browser's own class; Node has none. */
export function ensureImageData(): void {
  const scope = globalThis as { ImageData?: unknown };
  scope.ImageData ??= class {
    constructor(
      readonly data: Uint8ClampedArray,
      readonly width: number,
      readonly height: number,
    ) {}
  };
}

/** RGBA without its last channel. */
export function dropAlpha(rgba: Uint8ClampedArray): Uint8Array {
  const out = new Uint8Array((rgba.length / 4) * 3);
  for (let from = 0, to = 0; from < rgba.length; from += 4, to += 3) {
    out[to] = rgba[from] as number;
    out[to + 1] = rgba[from + 1] as number;
    out[to + 2] = rgba[from + 2] as number;
  }
  return out;
}

/**
 * Samples as RGBA of 8 bits.
 * @param rgba where they go, at least as large; new memory by default
 */
export function rgba8(raster: Raster, rgba = new Uint8ClampedArray(raster.width * raster.height * 4)): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, channels, data } = raster;
  const length = width * height * 4;
  const scale = largestSample(raster) === 255 ? 1 : 255 / 65535;
  const [green, blue] = channels <= 2 ? [0, 0] : [1, 2];
  const alpha = hasAlpha(raster) ? channels - 1 : -1;
  for (let from = 0, to = 0; to < length; from += channels, to += 4) {
    rgba[to] = (data[from] as number) * scale;
    rgba[to + 1] = (data[from + green] as number) * scale;
    rgba[to + 2] = (data[from + blue] as number) * scale;
    rgba[to + 3] = alpha < 0 ? 255 : (data[from + alpha] as number) * scale;
  }
  return rgba;
}

/** {@link rgba8}, opaque. */
export function opaqueRgba(raster: Raster, into?: Uint8ClampedArray<ArrayBuffer>): Uint8ClampedArray<ArrayBuffer> {
  const rgba = rgba8(raster, into);
  if (hasAlpha(raster)) for (let k = 3; k < rgba.length; k += 4) rgba[k] = 255;
  return rgba;
}

/** Rows of a raster, which share its samples. */
export function rowsOf(raster: Raster, fromRow: number, toRow: number): Raster {
  const row = raster.width * raster.channels;
  return { ...raster, height: toRow - fromRow, data: raster.data.subarray(fromRow * row, toRow * row) };
}

/** A raster of 8 bits without its alpha: its colours as they are. */
export function withoutAlpha(raster: Raster): Raster {
  if (!hasAlpha(raster)) return raster;
  const { channels, data } = raster;
  const kept = (channels - 1) as 1 | 3;
  const out = new Uint8Array((data.length / channels) * kept);
  for (let from = 0, to = 0; from < data.length; from += channels, to += kept)
    for (let c = 0; c < kept; c += 1) out[to + c] = data[from + c] as number;
  return { ...raster, channels: kept, data: out };
}
