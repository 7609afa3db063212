import type { Raster } from '../raster/raster';

/** Brightness 0..1 at a position, px. */
export type Brightness = (x: number, y: number) => number;

/** Brightness 0..1 at a position of a level, bilinear; the border repeats. Weights: luminance of ITU-R BT.709. */
export function brightnessOf({ width, height, channels, data }: Raster, top: number): Brightness {
  // plain arithmetic without intermediate arrays: this is asked some hundred thousand times for one line
  const rgb = channels >= 3;
  const right = width - 1;
  const bottom = height - 1;
  const at = (k: number): number =>
    rgb ? 0.2126 * (data[k] as number) + 0.7152 * (data[k + 1] as number) + 0.0722 * (data[k + 2] as number) : (data[k] as number);
  return (x, y) => {
    const u = x < 0.5 ? 0 : x - 0.5 > right ? right : x - 0.5;
    const v = y < 0.5 ? 0 : y - 0.5 > bottom ? bottom : y - 0.5;
    const i = Math.floor(u);
    const j = Math.floor(v);
    const fx = u - i;
    const fy = v - j;
    const k = (j * width + i) * channels;
    const stepX = i < right ? channels : 0;
    const stepY = j < bottom ? width * channels : 0;
    const upper = at(k) * (1 - fx) + at(k + stepX) * fx;
    const lower = at(k + stepY) * (1 - fx) + at(k + stepX + stepY) * fx;
    return (upper * (1 - fy) + lower * fy) / top;
  };
}
