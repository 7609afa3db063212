import { fromLight, lightOf, type Light } from './transfer';

/** Pixels in memory: rows from the top, channels interleaved, straight (not premultiplied) alpha last where there are 2 or 4 channels. */
export interface Raster {
  readonly width: number;
  readonly height: number;
  /** 1 grey, 2 grey and alpha, 3 RGB, 4 RGB and alpha. */
  readonly channels: 1 | 2 | 3 | 4;
  readonly data: Uint8Array | Uint8ClampedArray | Uint16Array;
}

/** A raster of which only some rows that follow one another may lie in memory: row y then lies at row y modulo `held`. */
export interface Source extends Raster {
  /** Rows that lie in memory; all where it is not said. */
  readonly held?: number;
}

/** Largest sample value of a raster: 255 or 65535. */
export const largestSample = (raster: Pick<Raster, 'data'>): number => (raster.data instanceof Uint16Array ? 65535 : 255);

/** 1 for samples of 16 bits. */
export const isWide = (raster: Pick<Raster, 'data'>): 0 | 1 => (raster.data instanceof Uint16Array ? 1 : 0);

/** Whether a raster carries alpha. */
export const hasAlpha = (raster: Pick<Raster, 'channels'>): boolean => raster.channels === 2 || raster.channels === 4;

/** An empty raster of the same kind of samples as `like`. */
export function blankRaster(width: number, height: number, channels: Raster['channels'], bits: 8 | 16): Raster {
  const length = width * height * channels;
  return { width, height, channels, data: bits === 16 ? new Uint16Array(length) : new Uint8Array(length) };
}

/** Samples of 16 bits as the nearest of 8. */
function inEightBits(data: Raster['data']): Uint8Array {
  const out = new Uint8Array(data.length);
  // plain arithmetic, as this goes through whole pictures: v / 257, rounded, for every v of 16 bits
  for (let k = 0; k < out.length; k += 1) out[k] = ((data[k] as number) * 255 + 32895) >> 16;
  return out;
}

/** As screens show it: 8 bits, grey as three colours, alpha kept; the same raster where it is so already. */
export function forScreen(raster: Raster): Raster {
  const { width, height, channels, data } = raster;
  const wide = isWide(raster) === 1;
  if (channels >= 3 && !wide) return raster;
  const grey = channels < 3;
  const kept = (grey ? channels + 2 : channels) as Raster['channels'];
  const eight = wide ? inEightBits(data) : data;
  if (!grey) return { width, height, channels, data: eight };
  const out = new Uint8Array(width * height * kept);
  for (let from = 0, to = 0; from < data.length; from += channels, to += kept) {
    const level = eight[from] as number;
    out[to] = level;
    out[to + 1] = level;
    out[to + 2] = level;
    if (channels === 2) out[to + 3] = eight[from + 1] as number;
  }
  return { width, height, channels: kept, data: out };
}

/**
 * Half the size, each pixel the mean of four (alpha weighs colour), of samples or of light. Where a side is odd its last row or column is
 * left out; a side of one pixel stays.
 */
export function halveRaster(raster: Raster, light: Light = 'encoded'): Raster {
  const { width, height, channels, data } = raster;
  const [w, h] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
  const out = data instanceof Uint16Array ? new Uint16Array(w * h * channels) : new Uint8Array(w * h * channels);
  const alpha = hasAlpha(raster) ? channels - 1 : -1;
  const top = largestSample(raster);
  const curve = light === 'linear' ? lightOf(top) : null;
  const right = width > 1 ? channels : 0;
  const below = height > 1 ? width * channels : 0;
  if (alpha < 0 && !curve) {
    // plain arithmetic: this goes through every picture that is opened
    const step = 2 * channels;
    for (let j = 0, to = 0; j < h; j += 1)
      for (let i = 0, from = 2 * j * width * channels; i < w; i += 1, from += step)
        for (let k = from; k < from + channels; k += 1, to += 1) {
          const low = k + below;
          out[to] = ((data[k] as number) + (data[k + right] as number) + (data[low] as number) + (data[low + right] as number) + 2) >> 2;
        }
    return { width: w, height: h, channels, data: out };
  }
  if (!curve) {
    for (let j = 0, to = 0; j < h; j += 1)
      for (let i = 0, from = 2 * j * width * channels; i < w; i += 1, from += 2 * channels, to += channels) {
        const a0 = data[from + alpha] as number;
        const a1 = data[from + right + alpha] as number;
        const a2 = data[from + below + alpha] as number;
        const a3 = data[from + below + right + alpha] as number;
        const total = a0 + a1 + a2 + a3;
        out[to + alpha] = (total + 2) >> 2;
        if (total === 0) continue;
        for (let c = 0; c < alpha; c += 1) {
          const k = from + c;
          const low = k + below;
          const sum =
            a0 * (data[k] as number) + a1 * (data[k + right] as number) + a2 * (data[low] as number) + a3 * (data[low + right] as number);
          out[to + c] = Math.round(sum / total);
        }
      }
    return { width: w, height: h, channels, data: out };
  }
  for (let j = 0; j < h; j += 1) {
    for (let i = 0; i < w; i += 1) {
      const from = (2 * j * width + 2 * i) * channels;
      const to = (j * w + i) * channels;
      const taps = [from, from + right, from + below, from + below + right];
      const weight = (k: number): number => (alpha < 0 ? 1 : (data[k + alpha] as number));
      const total = taps.reduce((sum, k) => sum + weight(k), 0);
      for (let c = 0; c < (alpha < 0 ? channels : alpha); c += 1) {
        const value = (k: number): number => curve[data[k + c] as number] as number;
        const mean = total === 0 ? 0 : taps.reduce((sum, k) => sum + value(k) * weight(k), 0) / total;
        out[to + c] = Math.round(fromLight(mean / top) * top);
      }
      if (alpha >= 0) out[to + alpha] = Math.round(total / 4);
    }
  }
  return { width: w, height: h, channels, data: out };
}

/** A raster, and then each half the size of the one before, down to one whose longer side is at most so many px. */
export function levelsOf(raster: Raster, mostPx: number): Raster[] {
  const levels = [raster];
  for (let level = raster; Math.max(level.width, level.height) > mostPx;) {
    level = halveRaster(level);
    levels.push(level);
  }
  return levels;
}
