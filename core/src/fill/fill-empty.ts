import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { PlumbError } from '../picture/failure';
import { hasAlpha, largestSample, type Raster } from '../raster/raster';
import { allowedCells } from './areas';
import { complete, copiedFrom, type Completed } from './complete';
import { leftParts } from './empty-parts';
import type { Ground } from './level';
import { search } from './search-fast';
import { EMPTY, goStraightOn, MADE, NOTHING } from './straight-on';

/** The finest level that is searched has no more pixels than this; results up to `WHOLE_PX` are searched as they are. */
const FINEST_PX = 2_000_000;
const WHOLE_PX = 200_000;

/** What was filled of a result. */
export interface Filled {
  /** Share of the result's pixels that were filled, 0..1. */
  readonly share: number;
  /** Whether something is still empty, since it was to be left. */
  readonly leftEmpty: boolean;
  /** 1 for every pixel that was filled. */
  readonly mask: Uint8Array;
}

/**
 * Fills what is empty of a result from what there is around it; no other pixel changes. The same pixels, correction and seed give the same
 * result everywhere.
 *
 * @param raster the result with alpha, 0 where it is empty; what is filled is as opaque as what is copied
 * @param warp of the result
 * @param clear whether the original has clear pixels of its own, which are no empty edges
 * @param onShare called with the share that is done, 0..1
 * @throws PlumbError where more is empty than there is, or nothing may be copied
 */
export function fillEmpty(
  raster: Raster,
  correction: Correction,
  warp: Warp,
  clear: boolean,
  onShare: (share: number) => void = () => undefined,
): Filled {
  const { width, height } = raster;
  const count = width * height;
  const { state, empty, leftEmpty } = emptyOf(raster, warp, clear, leftParts(correction, warp, raster));
  const mask = new Uint8Array(count);
  if (empty === 0) return { share: 0, leftEmpty, mask };
  if (empty > count / 2)
    throw new PlumbError(
      'too-empty',
      `${((empty / count) * 100).toFixed(0)} % of this crop is empty: more than there is to copy from.`,
      'Nothing was filled. Choose a smaller crop, or keep the empty edges.',
    );
  let halvings = count <= WHOLE_PX ? 0 : 1;
  while (count / 4 ** halvings > FINEST_PX) halvings += 1;
  const cells = allowedCells(correction, warp, raster, halvings);
  const cellColumns = Math.ceil(width / 2 ** halvings);
  const allowed = (x: number, y: number): boolean => cells[(y >> halvings) * cellColumns + (x >> halvings)] === 1;
  straightLines(raster, correction, warp, state, allowed);
  const ground = groundOf(raster, state, halvings, cells);
  const completed = complete(ground, correction.crop.fill.seed, search, onShare);
  if (!completed)
    throw new PlumbError(
      'nothing-to-copy',
      'There is nothing left to copy from.',
      'Nothing was filled. Take away some of what may not be copied, or choose a larger crop.',
    );
  copyFinest(raster, state, halvings, completed);
  for (let k = 0; k < count; k += 1) if (state[k] === EMPTY || state[k] === MADE) mask[k] = 1;
  return { share: empty / count, leftEmpty, mask };
}

interface Emptiness {
  /** What is known of each pixel. */
  readonly state: Uint8Array;
  readonly empty: number;
  readonly leftEmpty: boolean;
}

/** What of a result is to be filled: without alpha, and, where the original has alpha of its own, beside it too; parts to be left apart. */
function emptyOf(raster: Raster, warp: Warp, clear: boolean, left: ((x: number, y: number) => boolean) | null): Emptiness {
  const { width, channels, data } = raster;
  if (!hasAlpha(raster)) throw new Error('What is filled must have alpha.');
  const state = new Uint8Array(width * raster.height);
  const at = new Float64Array(2);
  const { width: w, height: h } = warp.pictureSize;
  let [empty, leftEmpty] = [0, false];
  for (let k = 0, a = channels - 1; k < state.length; k += 1, a += channels) {
    if (data[a] !== 0) continue;
    state[k] = NOTHING;
    const [i, j] = [k % width, Math.floor(k / width)];
    if (clear) {
      const there = warp.outputToPicture(i + 0.5, j + 0.5, at);
      const [x, y] = [at[0] as number, at[1] as number];
      // pixels of the original that are clear themselves are no empty edge; at its border the grid of positions may differ a little
      if (there && x >= EDGE_PX && y >= EDGE_PX && x <= w - EDGE_PX && y <= h - EDGE_PX) continue;
    }
    if (left?.(i, j)) leftEmpty = true;
    else {
      state[k] = EMPTY;
      empty += 1;
    }
  }
  return { state, empty, leftEmpty };
}

const EDGE_PX = 0.05;

/** Everything that goes straight on is copied first. */
function straightLines(
  raster: Raster,
  correction: Correction,
  warp: Warp,
  state: Uint8Array,
  allowed: (x: number, y: number) => boolean,
): void {
  const { width, height, channels, data } = raster;
  for (const { a, b } of correction.crop.fill.lines) {
    const [p, q] = [warp.toOutput(a[0], a[1]), warp.toOutput(b[0], b[1])];
    if (!p || !q) continue;
    goStraightOn(state, width, height, [p, q], allowed, (to, from) => {
      for (let c = 0; c < channels; c += 1) data[to * channels + c] = data[from * channels + c] as number;
    });
  }
}

/** The finest level that is searched: means of cells of a result. */
function groundOf({ width, height, channels, data }: Raster, state: Uint8Array, halvings: number, cells: Uint8Array): Ground {
  const side = 1 << halvings;
  const [w, h] = [Math.ceil(width / side), Math.ceil(height / side)];
  const ground = { width: w, height: h, pixels: new Uint8Array(w * h * 4), hole: new Uint8Array(w * h), allowed: new Uint8Array(w * h) };
  const shift = data instanceof Uint16Array ? 8 : 0;
  const [second, third] = channels >= 3 ? [1, 2] : [0, 0];
  for (let y = 0, at = 0; y < h; y += 1)
    for (let x = 0; x < w; x += 1, at += 1) {
      let [r, g, b, known, holes, made] = [0, 0, 0, 0, 0, 0];
      for (let j = y * side; j < Math.min(height, (y + 1) * side); j += 1)
        for (let i = x * side; i < Math.min(width, (x + 1) * side); i += 1) {
          const k = j * width + i;
          if (state[k] === EMPTY || state[k] === NOTHING) {
            holes = 1;
            continue;
          }
          if (state[k] === MADE) made = 1;
          r += (data[k * channels] as number) >> shift;
          g += (data[k * channels + second] as number) >> shift;
          b += (data[k * channels + third] as number) >> shift;
          known += 1;
        }
      ground.hole[at] = holes;
      const whole = (x + 1) * side <= width && (y + 1) * side <= height;
      ground.allowed[at] = holes === 0 && made === 0 && whole ? (cells[at] as number) : 0;
      if (known === 0) continue;
      ground.pixels[at * 4] = (r + (known >> 1)) / known;
      ground.pixels[at * 4 + 1] = (g + (known >> 1)) / known;
      ground.pixels[at * 4 + 2] = (b + (known >> 1)) / known;
    }
  return ground;
}

/** Copies the picture's own pixels through the matches that were found, made as bright as the votes say. */
function copyFinest(raster: Raster, state: Uint8Array, halvings: number, { level, correction }: Completed): void {
  const { width, height, channels, data } = raster;
  const most = largestSample(raster);
  const scale = most / 255;
  const side = 1 << halvings;
  const colours = channels >= 3 ? 3 : 1;
  const light = new Float64Array(3);
  for (let y = 0; y < height; y += 1) {
    const cy = y >> halvings;
    const v = Math.min(level.height - 1, Math.max(0, (y + 0.5) / side - 0.5));
    for (let x = 0; x < width; x += 1) {
      const to = y * width + x;
      if (state[to] !== EMPTY) continue;
      const cx = x >> halvings;
      const from = copiedFrom(level, cx, cy);
      const ox = x - (cx << halvings);
      const sx = (from.x << halvings) + (from.mirrored ? side - 1 - ox : ox);
      const source = ((from.y << halvings) + y - (cy << halvings)) * width + sx;
      const u = Math.min(level.width - 1, Math.max(0, (x + 0.5) / side - 0.5));
      between(level, correction, u, v, light);
      if (colours === 1) light[0] = ((light[0] as number) + (light[1] as number) + (light[2] as number)) / 3;
      for (let c = 0; c < colours; c += 1) {
        const value = (data[source * channels + c] as number) + scale * (light[c] as number);
        data[to * channels + c] = Math.min(most, Math.max(0, Math.round(value)));
      }
      data[to * channels + channels - 1] = data[source * channels + channels - 1] as number;
    }
  }
}

/** A smooth correction between the pixels of a level, into `out`; only those that were empty have one. */
function between({ width, height, hole }: Completed['level'], correction: Float32Array, u: number, v: number, out: Float64Array): void {
  const [i, j] = [Math.floor(u), Math.floor(v)];
  const [fx, fy] = [u - i, v - j];
  let [r, g, b, all] = [0, 0, 0, 0];
  for (let dj = 0; dj < 2; dj += 1)
    for (let di = 0; di < 2; di += 1) {
      const at = Math.min(height - 1, j + dj) * width + Math.min(width - 1, i + di);
      const weight = (di ? fx : 1 - fx) * (dj ? fy : 1 - fy);
      if (hole[at] !== 1 || weight === 0) continue;
      r += weight * (correction[at * 3] as number);
      g += weight * (correction[at * 3 + 1] as number);
      b += weight * (correction[at * 3 + 2] as number);
      all += weight;
    }
  const scale = all > 0 ? 1 / all : 0;
  out[0] = r * scale;
  out[1] = g * scale;
  out[2] = b * scale;
}
