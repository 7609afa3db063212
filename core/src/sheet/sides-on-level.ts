import type { Point } from '../picture/point';
import type { Line } from './lines';
import type { Box } from './parts';

/** How a print's side lies on the level on which it was sought. */
export interface CoarseSide extends Line {
  /** Share of its length along which it was found there. */
  readonly share: number;
}

/** Sides are looked for along this part of their length: corners are rough. */
const ALONG = 0.92;
/** How far outside the box a side may lie, and how far inside as a share of the box, px of the level. */
const OUTSIDE_PX = 3;
const INSIDE_PX = 8;
const INSIDE_SHARE = 0.12;
/** What begins a side has its full height within so many px. */
const RISE_PX = 3;
/** A section lies on a line within this, px. */
const ON_PX = 0.75;
const STEP = 0.5;

/**
 * The four sides of a box as what differs from the lid begins there: a line through most of the places where it does, whatever the others do
 * (a torn corner, dust that lies against the paper, a thread).
 *
 * @param off by how much each pixel of the level differs from the lid
 * @param limit what is more than the lid's own
 * @param box clockwise as seen; px of the level
 * @param isOthers where another print lies: nothing begins there
 */
export function sidesOnLevel(
  off: Float32Array,
  width: number,
  height: number,
  limit: number,
  box: Box,
  isOthers: (p: Point) => boolean,
): CoarseSide[] {
  const at = (x: number, y: number): number => {
    if (isOthers([x - 0.5, y - 0.5])) return 0;
    const [u, v] = [Math.min(width - 1.001, Math.max(0, x - 0.5)), Math.min(height - 1.001, Math.max(0, y - 0.5))];
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const [fx, fy] = [u - i, v - j];
    const k = j * width + i;
    return (
      ((off[k] as number) * (1 - fx) + (off[k + 1] as number) * fx) * (1 - fy) +
      ((off[k + width] as number) * (1 - fx) + (off[k + width + 1] as number) * fx) * fy
    );
  };
  return [0, 1, 2, 3].map((i) => {
    const [p, q, r] = [box[i], box[(i + 1) % 4], box[(i + 2) % 4]] as unknown as [Point, Point, Point];
    const length = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    const deep = Math.hypot(r[0] - q[0], r[1] - q[1]);
    const [c, s] = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
    const most = Math.max(INSIDE_PX, INSIDE_SHARE * deep);
    const count = Math.max(8, Math.min(400, Math.round(length * ALONG)));
    const found: { readonly t: number; readonly o: number }[] = [];
    for (let n = 0; n < count; n += 1) {
      const t = length * ((1 - ALONG) / 2 + (ALONG * (n + 0.5)) / count);
      const value = (o: number): number => at(p[0] + c * t - s * o, p[1] + s * t + c * o);
      const o = beginning(value, most, limit);
      if (o !== null) found.push({ t: t - length / 2, o });
    }
    const middle: Point = [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
    const line = mostOn(found, length);
    if (!line) return { at: middle, rad: Math.atan2(s, c), share: 0 };
    return {
      at: [middle[0] - s * line.offset, middle[1] + c * line.offset],
      rad: Math.atan2(s, c) + Math.atan(line.slope),
      share: line.on / count,
    };
  });
}

/** Where something begins along a way inwards: half way up to its height; null where nothing does. */
function beginning(value: (o: number) => number, most: number, limit: number): number | null {
  for (let o = -OUTSIDE_PX; o <= most; o += STEP) {
    if (value(o) < limit) continue;
    let height = 0;
    for (let k = 0; k <= RISE_PX; k += STEP) height = Math.max(height, value(o + k));
    let before = value(o - STEP);
    for (let k = 0; k <= RISE_PX; k += STEP) {
      const here = value(o + k);
      if (here >= height / 2) return here > before && before < height / 2 ? o + k - (STEP * (here - height / 2)) / (here - before) : o + k;
      before = here;
    }
    return o;
  }
  return null;
}

/** The line o = offset + slope t on which most of the places lie, and how many do. */
function mostOn(
  found: readonly { readonly t: number; readonly o: number }[],
  length: number,
): { readonly offset: number; readonly slope: number; readonly on: number } | null {
  if (found.length < 8) return null;
  let best = { offset: 0, slope: 0, on: 0 };
  const gap = Math.max(1, Math.floor(found.length / 14));
  for (let i = 0; i < found.length; i += gap)
    for (let j = i + 2 * gap; j < found.length; j += gap) {
      const [a, b] = [found[i], found[j]] as [{ t: number; o: number }, { t: number; o: number }];
      const slope = (b.o - a.o) / (b.t - a.t);
      if (Math.abs(slope) > 0.12) continue;
      const offset = a.o - slope * a.t;
      let on = 0;
      for (const { t, o } of found) if (Math.abs(o - offset - slope * t) <= ON_PX) on += 1;
      if (on > best.on) best = { offset, slope, on };
    }
  for (let round = 0; round < 3; round += 1) {
    let [n, st, so, stt, sto] = [0, 0, 0, 0, 0];
    for (const { t, o } of found) {
      if (Math.abs(o - best.offset - best.slope * t) > ON_PX) continue;
      n += 1;
      st += t;
      so += o;
      stt += t * t;
      sto += t * o;
    }
    const determinant = n * stt - st * st;
    if (n < 6 || determinant < 1e-6 * length) break;
    const slope = (n * sto - st * so) / determinant;
    best = { slope, offset: (so - slope * st) / n, on: n };
  }
  return best.on >= 6 ? best : null;
}
