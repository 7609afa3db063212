import { largestSample, type Raster } from './raster';

/** What colours become, at even steps of each channel: red slowest, blue fastest; results 0..65535, three each. Grey: one table of greys. */
export type Lattice =
  { readonly kind: 'colour'; readonly steps: number; readonly data: Uint16Array } | { readonly kind: 'grey'; readonly data: Uint16Array };

/**
 * A raster with its colours looked up in a lattice, at 8 bits; alpha stays. Between the steps colours are mixed over the tetrahedron in
 * which they lie (common practice, no published source), which keeps greys grey.
 */
export function throughLattice(raster: Raster, lattice: Lattice): Raster {
  const { width, height, channels, data } = raster;
  const out = new Uint8Array(data.length);
  const most = largestSample(raster);
  if (lattice.kind === 'grey' || channels < 3) {
    const table = new Uint8Array(most + 1);
    const last = lattice.data.length - 1;
    for (let v = 0; v <= most; v += 1) table[v] = Math.round((lattice.data[Math.round((v / most) * last)] as number) / 257);
    for (let k = 0; k < data.length; k += channels) {
      out[k] = table[data[k] as number] as number;
      if (channels === 2) out[k + 1] = most === 255 ? (data[k + 1] as number) : Math.round((data[k + 1] as number) / 257);
    }
    return { width, height, channels, data: out };
  }
  // where each sample lies: the step below, and how far beyond it in 256ths
  const { steps, data: nodes } = lattice;
  const below = new Uint8Array(most + 1);
  const beyond = new Uint16Array(most + 1);
  for (let v = 0; v <= most; v += 1) {
    const at = (v / most) * (steps - 1);
    below[v] = Math.min(steps - 2, Math.floor(at));
    beyond[v] = Math.round((at - (below[v] as number)) * 256);
  }
  const [toRed, toGreen, toBlue] = [3 * steps * steps, 3 * steps, 3];
  const toWhite = toRed + toGreen + toBlue;
  const [wide, alpha] = [most !== 255, channels === 4];
  for (let k = 0; k < data.length; k += channels) {
    const r = data[k] as number;
    const g = data[k + 1] as number;
    const b = data[k + 2] as number;
    const fr = beyond[r] as number;
    const fg = beyond[g] as number;
    const fb = beyond[b] as number;
    let at = (below[r] as number) * toRed + (below[g] as number) * toGreen + (below[b] as number) * toBlue;
    // the way to the far corner goes along the channel that is farthest beyond first, the least beyond last
    const first = fr >= fg ? (fr >= fb ? toRed : toBlue) : fg >= fb ? toGreen : toBlue;
    const last = fr < fg ? (fr < fb ? toRed : toBlue) : fg < fb ? toGreen : toBlue;
    const high = fr > fg ? (fr > fb ? fr : fb) : fg > fb ? fg : fb;
    const low = fr < fg ? (fr < fb ? fr : fb) : fg < fb ? fg : fb;
    const middle = fr + fg + fb - high - low;
    const w0 = 256 - high;
    const w1 = high - middle;
    const w2 = middle - low;
    const one = first;
    const two = toWhite - last;
    for (let c = 0; c < 3; c += 1, at += 1) {
      const mixed =
        (nodes[at] as number) * w0 +
        (nodes[at + one] as number) * w1 +
        (nodes[at + two] as number) * w2 +
        (nodes[at + toWhite] as number) * low;
      // 65535 stands for 255
      out[k + c] = ((mixed >>> 8) * 255 + 32895) >>> 16;
    }
    if (alpha) out[k + 3] = wide ? ((data[k + 3] as number) + 128) / 257 : (data[k + 3] as number);
  }
  return { width, height, channels, data: out };
}
