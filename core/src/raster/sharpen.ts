import { largestSample, type Raster } from './raster';

/** For what a file is sharpened after it was resampled. */
export type Sharpening = 'none' | 'screen' | 'print';

/**
 * One step of unsharp masking: how wide the blur is that is taken away, px, and how much of the difference comes back (common practice,
 * no published source; a print is looked at from farther, so that more is needed).
 */
const STEPS: Readonly<Record<Exclude<Sharpening, 'none'>, { readonly sigma: number; readonly amount: number }>> = {
  screen: { sigma: 0.6, amount: 0.5 },
  print: { sigma: 1, amount: 0.8 },
};

/** Weights of a Gaussian of a width, px, out to three of it; they add up to 1. */
function gaussian(sigma: number): Float64Array {
  const reach = Math.ceil(3 * sigma);
  const weights = Float64Array.from({ length: 2 * reach + 1 }, (_, k) => Math.exp(-((k - reach) ** 2) / (2 * sigma ** 2)));
  const sum = weights.reduce((a, b) => a + b, 0);
  return weights.map((w) => w / sum);
}

/** A raster sharpened at its own depth, colour by colour; alpha stays, and so does what lies beyond the border: it repeats the border. */
export function sharpened(raster: Raster, kind: Sharpening): Raster {
  if (kind === 'none') return raster;
  const { width, height, channels, data } = raster;
  const { sigma, amount } = STEPS[kind];
  const weights = gaussian(sigma);
  const reach = (weights.length - 1) / 2;
  const most = largestSample(raster);
  const colours = channels < 3 ? 1 : 3;
  const out = data.slice();
  const stride = width * channels;
  // rows blurred across, as many as a column of the blur needs, each made once
  const rows = Array.from({ length: weights.length }, () => new Float32Array(width * colours));
  const across = (y: number): Float32Array => {
    const into = rows[y % rows.length] as Float32Array;
    const from = Math.min(height - 1, Math.max(0, y - reach)) * stride;
    for (let x = 0, to = 0; x < width; x += 1)
      for (let c = 0; c < colours; c += 1, to += 1) {
        let sum = 0;
        for (let k = -reach; k <= reach; k += 1)
          sum += (weights[k + reach] as number) * (data[from + Math.min(width - 1, Math.max(0, x + k)) * channels + c] as number);
        into[to] = sum;
      }
    return into;
  };
  // row y of the blur's own count is row y - reach of the picture
  for (let y = 0; y < 2 * reach; y += 1) across(y);
  for (let y = 0; y < height; y += 1) {
    across(y + 2 * reach);
    for (let x = 0, from = 0; x < width; x += 1)
      for (let c = 0; c < colours; c += 1, from += 1) {
        let blurred = 0;
        for (let k = 0; k < weights.length; k += 1)
          blurred += (weights[k] as number) * ((rows[(y + k) % rows.length] as Float32Array)[from] as number);
        const at = y * stride + x * channels + c;
        const sample = data[at] as number;
        out[at] = Math.min(most, Math.max(0, Math.round(sample + amount * (sample - blurred))));
      }
  }
  return { ...raster, data: out };
}
