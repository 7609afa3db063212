import type { Point } from '../picture/point';
import { medianOf } from './lid';

/** A faint edge outside a side, parallel to it. */
export interface FaintSide {
  /** How far outside, px; and how much brightness changes there, 0..1. */
  readonly outPx: number;
  readonly step: number;
}

/** What a level shows beyond its lid. */
export interface Rest {
  readonly rest: readonly Float32Array[];
  readonly width: number;
  readonly height: number;
}

/** A side is judged in so many stretches, which have to agree; so many sections each. */
const STRETCHES = 14;
const SECTIONS = 26;
const AGREEING = 0.75;
/** The middle stretch steps by at least this, and by so many deviations of what steps elsewhere. */
const LEAST_STEP = 0.005;
const DEVIATIONS = 7;
/** Means of so many px to either side are compared, so far from the edge. */
const MEAN_PX = 2;
/** Shadows are so wide at most, px. */
const SHADOW_PX = 6;

/**
 * The faint edge furthest outside a side: where white paper meets a white lid, all of its length says together what no place says alone.
 *
 * @param rest by how much each colour of the level differs from the lid
 * @param p,q the ends of the side, clockwise round the print, so that its outside is on the left of the way; px of the level
 * @param leastPx,mostPx from where to where to look, px of the level; nearer is the side itself, with its shadow
 * @returns null where there is none
 */
export function faintSide({ rest, width, height }: Rest, p: Point, q: Point, leastPx: number, mostPx: number): FaintSide | null {
  const length = Math.hypot(q[0] - p[0], q[1] - p[1]);
  const count = Math.floor(mostPx) + 2 * MEAN_PX;
  const nearest = Math.ceil(leastPx) + MEAN_PX;
  if (length < 40 || count < nearest + MEAN_PX) return null;
  const [c, s] = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
  const colours = rest.length;
  // means along each stretch, colour by colour, from just inside outwards
  const first = -MEAN_PX;
  const means = new Float64Array(STRETCHES * colours * count);
  for (let stretch = 0; stretch < STRETCHES; stretch += 1)
    for (let n = 0; n < count; n += 1) {
      let seen = 0;
      for (let i = 0; i < SECTIONS; i += 1) {
        const t = length * (0.06 + (0.88 * (stretch + (i + 0.5) / SECTIONS)) / STRETCHES);
        const x = Math.floor(p[0] + c * t + s * (first + n));
        const y = Math.floor(p[1] + s * t - c * (first + n));
        if (x < 0 || y < 0 || x >= width || y >= height) continue;
        seen += 1;
        for (let k = 0; k < colours; k += 1) {
          const at = (stretch * colours + k) * count + n;
          means[at] = (means[at] as number) + ((rest[k] as Float32Array)[y * width + x] as number);
        }
      }
      for (let k = 0; k < colours; k += 1) {
        const at = (stretch * colours + k) * count + n;
        means[at] = seen < SECTIONS / 2 ? NaN : (means[at] as number) / seen;
      }
    }
  let best: FaintSide | null = null;
  for (let k = 0; k < colours; k += 1) {
    const steps: (readonly number[])[] = [];
    for (let n = 0; n < count; n += 1) steps.push(stepsAt(means, colours, k, count, n));
    const middles = steps.map((of) => (of.length < STRETCHES / 2 ? 0 : medianOf(of)));
    const usual = medianOf(middles.slice(nearest).map(Math.abs));
    const limit = Math.max(LEAST_STEP, DEVIATIONS * usual);
    for (let n = count - 1; n >= nearest; n -= 1) {
      const step = middles[n] as number;
      if (Math.abs(step) < limit) continue;
      const alike = (steps[n] as readonly number[]).filter(
        (v) => Math.sign(v) === Math.sign(step) && Math.abs(v) >= Math.abs(step) / 4,
      ).length;
      if (alike < AGREEING * STRETCHES) continue;
      // the strongest step about here
      let peak = n;
      while (peak > nearest && Math.abs(middles[peak - 1] as number) > Math.abs(middles[peak] as number)) peak -= 1;
      // a shadow first, and then the paper that throws it: there brightness turns back
      for (let m = peak - 1; m >= Math.max(nearest, peak - SHADOW_PX); m -= 1)
        if (
          Math.sign(middles[m] as number) === -Math.sign(step) &&
          Math.abs(middles[m] as number) >= Math.abs(middles[peak] as number) / 2
        ) {
          peak = m;
          // means over more than a shadow's width step alike on both sides of it: the outer one is the paper's
          while (peak > nearest && Math.abs(middles[peak - 1] as number) > 1.2 * Math.abs(middles[peak] as number)) peak -= 1;
          break;
        }
      const outPx = peak + first - 0.5;
      if (!best || outPx > best.outPx + 1) best = { outPx, step: middles[peak] as number };
      break;
    }
  }
  return best;
}

/** By how much each stretch changes across a place, from inside outwards. */
function stepsAt(means: Float64Array, colours: number, k: number, count: number, n: number): number[] {
  const steps: number[] = [];
  if (n < MEAN_PX || n + MEAN_PX > count) return steps;
  for (let stretch = 0; stretch < STRETCHES; stretch += 1) {
    const base = (stretch * colours + k) * count + n;
    let sum = 0;
    for (let i = 0; i < MEAN_PX; i += 1) sum += (means[base + i] as number) - (means[base - 1 - i] as number);
    if (!Number.isNaN(sum)) steps.push(sum / MEAN_PX);
  }
  return steps;
}
