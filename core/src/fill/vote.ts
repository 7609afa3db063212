import { HALF_PATCH, TARGET, type Level } from './level';

/** How much less a pixel counts for each px that it lies farther from what is known. */
const FARTHER = 1.15;

/**
 * What every empty pixel of a level should be: the weighted mean of what all patches over it say, each by its match made as bright as it.
 * Likelier matches, and patches nearer to what is known, count for more. Sums, products and quotients alone, so that it is the same everywhere.
 * Source: Wexler, Shechtman, Irani 2007, Space-time completion of video (from memory).
 *
 * @param depth how far each pixel lies from what is known, px
 * @returns RGB of each empty pixel, in their order, not rounded
 */
export function voted(level: Level, holes: Int32Array, depth: Uint8Array): Float32Array {
  const { width, height, pixels, field, distances, biases, flags, targets } = level;
  const nearness = new Float64Array(256);
  nearness[0] = 1;
  for (let d = 1; d < 256; d += 1) nearness[d] = (nearness[d - 1] as number) / FARTHER;
  let mean = 0;
  for (const t of targets) mean += distances[t] as number;
  mean = mean / Math.max(1, targets.length) + 1;
  const out = new Float32Array(holes.length * 3);
  for (let n = 0; n < holes.length; n += 1) {
    const p = holes[n] as number;
    const y = Math.floor(p / width);
    const x = p - y * width;
    let [r, g, b, all] = [0, 0, 0, 0];
    for (let j = Math.max(HALF_PATCH, y - HALF_PATCH); j <= Math.min(height - 1 - HALF_PATCH, y + HALF_PATCH); j += 1)
      for (let i = Math.max(HALF_PATCH, x - HALF_PATCH); i <= Math.min(width - 1 - HALF_PATCH, x + HALF_PATCH); i += 1) {
        const t = j * width + i;
        if (!((flags[t] as number) & TARGET)) continue;
        const match = field[t] as number;
        const from = ((match >> 1) + (y - j) * width + (match & 1 ? i - x : x - i)) * 4;
        const likely = 1 + (3 * (distances[t] as number)) / mean;
        const weight = (nearness[depth[t] as number] as number) / (likely * likely);
        const bias = biases[t] as number;
        r += weight * ((pixels[from] as number) + ((bias << 24) >> 24));
        g += weight * ((pixels[from + 1] as number) + ((bias << 16) >> 24));
        b += weight * ((pixels[from + 2] as number) + ((bias << 8) >> 24));
        all += weight;
      }
    out[n * 3] = r / all;
    out[n * 3 + 1] = g / all;
    out[n * 3 + 2] = b / all;
  }
  return out;
}

/** How far each pixel lies from what is known, in steps to a side, at most 255. */
export function depthOf({ width, height, hole }: Pick<Level, 'width' | 'height' | 'hole'>): Uint8Array {
  const depth = new Uint8Array(width * height);
  for (let k = 0; k < depth.length; k += 1) depth[k] = hole[k] === 1 ? 255 : 0;
  const near = (k: number, from: number): void => {
    if ((depth[from] as number) + 1 < (depth[k] as number)) depth[k] = (depth[from] as number) + 1;
  };
  for (let y = 0, k = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, k += 1) {
      if (x > 0) near(k, k - 1);
      if (y > 0) near(k, k - width);
    }
  for (let y = height - 1, k = depth.length - 1; y >= 0; y -= 1)
    for (let x = width - 1; x >= 0; x -= 1, k -= 1) {
      if (x < width - 1) near(k, k + 1);
      if (y < height - 1) near(k, k + width);
    }
  return depth;
}
