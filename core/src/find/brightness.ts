import { largestSample, type Raster } from '../raster/raster';

/** Brightness of a level, row by row, 0..1. */
export interface Grey {
  readonly width: number;
  readonly height: number;
  readonly channels: 1;
  readonly data: Float32Array;
}

/** Weights of luminance. Source: ITU-R BT.709. */
const [RED, GREEN, BLUE] = [0.2126, 0.7152, 0.0722];

/** The brightness of every pixel. */
export function greyOf({ width, height, channels, data }: Raster): Grey {
  const grey = new Float32Array(width * height);
  const scale = 1 / largestSample({ data });
  if (channels >= 3)
    for (let i = 0, k = 0; i < grey.length; i += 1, k += channels)
      grey[i] = (RED * (data[k] as number) + GREEN * (data[k + 1] as number) + BLUE * (data[k + 2] as number)) * scale;
  else for (let i = 0, k = 0; i < grey.length; i += 1, k += channels) grey[i] = (data[k] as number) * scale;
  return { width, height, channels: 1, data: grey };
}

/** Lightly smoothed, 1 2 1 each way, the border repeated: pixel noise and compression blocks count less. */
export function smoothed({ width, height, data }: Grey): Grey {
  // plain arithmetic without intermediate arrays, as everything here that goes through all pixels
  const across = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    const row = y * width;
    let before = data[row] as number;
    let here = before;
    for (let x = 0; x < width; x += 1) {
      const after = x + 1 < width ? (data[row + x + 1] as number) : here;
      across[row + x] = (before + 2 * here + after) / 16;
      before = here;
      here = after;
    }
  }
  const smooth = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    const row = y * width;
    const up = y > 0 ? row - width : row;
    const low = y + 1 < height ? row + width : row;
    for (let x = 0; x < width; x += 1)
      smooth[row + x] = (across[up + x] as number) + 2 * (across[row + x] as number) + (across[low + x] as number);
  }
  return { width, height, channels: 1, data: smooth };
}

/** Brightness 0..1 at a position, px. */
export type Brightness = (x: number, y: number) => number;

/**
 * Brightness at a position of a level, bilinear; the border repeats.
 * @param top what its samples are at their brightest
 */
export function brightnessOf({ width, height, channels, data }: Raster | Grey, top: number): Brightness {
  // plain arithmetic without intermediate arrays: this is asked some hundred thousand times for one line
  const rgb = channels >= 3;
  const right = width - 1;
  const bottom = height - 1;
  const at = (k: number): number =>
    rgb ? RED * (data[k] as number) + GREEN * (data[k + 1] as number) + BLUE * (data[k + 2] as number) : (data[k] as number);
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
