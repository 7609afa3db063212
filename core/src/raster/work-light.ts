import type { Raster } from './raster';
import { largestSample } from './raster';

/** Share of equalisation in the curve; the rest leaves brightness as it is. */
const EQUALISED = 0.8;

/** Brightness of a pixel in 8 bits; luminance weights of ITU-R BT.709. */
const brightness8 = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/**
 * A curve of brightness (256 values in 8 bits) that opens a picture's shadows and pulls down its highlights until edges show in both:
 * mostly its cumulative histogram. For the view only.
 */
export function workLightCurve(raster: Raster): Uint8Array {
  const { channels, data } = raster;
  const scale = 255 / largestSample(raster);
  const histogram = new Float64Array(256);
  const [g, b] = channels >= 3 ? [1, 2] : [0, 0];
  for (let k = 0; k < data.length; k += channels) {
    const value = brightness8((data[k] as number) * scale, (data[k + g] as number) * scale, (data[k + b] as number) * scale);
    histogram[Math.min(255, Math.round(value))] = (histogram[Math.min(255, Math.round(value))] as number) + 1;
  }
  const total = data.length / channels;
  const curve = new Uint8Array(256);
  let below = 0;
  for (let v = 0; v < 256; v += 1) {
    const here = histogram[v] as number;
    curve[v] = Math.round(EQUALISED * 255 * ((below + here / 2) / total) + (1 - EQUALISED) * v);
    below += here;
  }
  return curve;
}

/** Applies a work light to RGBA 8 bit pixels in place, keeping each pixel's hue. */
export function applyWorkLight(pixels: Uint8ClampedArray, curve: Uint8Array): void {
  for (let k = 0; k < pixels.length; k += 4) {
    const [r, g, b] = [pixels[k] as number, pixels[k + 1] as number, pixels[k + 2] as number];
    const before = brightness8(r, g, b);
    const after = curve[Math.round(before)] as number;
    if (before < 1) {
      pixels[k] = pixels[k + 1] = pixels[k + 2] = after;
      continue;
    }
    const times = after / before;
    pixels[k] = r * times;
    pixels[k + 1] = g * times;
    pixels[k + 2] = b * times;
  }
}
