import type { Correction, Reference } from '../correction/schema';
import { apply3, cross3, dot3, multiply3, rotationZ, type Mat3, type Vec3 } from '../linear/mat3';
import { levenbergMarquardt, solveLinear, type Fit } from '../linear/levenberg-marquardt';
import { noLens } from '../lens/none';
import { lensOf } from '../lens/lens-of';
import { degrees, diagonal, radians, type Point, type Size } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import type { Attitude } from './attitude';
import { facingOf, worldDirection, worldToCamera } from './world-direction';
import { slopeDeg, leanDeg } from '../picture/line-angle';

/** A movement that references can determine. */
export type Movement = 'roll' | 'tilt' | 'swing';

/** Result of solving the stance. */
export interface StanceSolution {
  readonly attitude: Attitude;
  /** Which movements the references determine. */
  readonly determined: readonly Movement[];
  /** Standard deviations, degrees; null where undetermined. */
  readonly sd: Readonly<Record<Movement, number | null>>;
  /** Signed distance of each used reference's ends from true, px (deviation of the pointing), by id. */
  readonly residualPx: ReadonlyMap<string, number>;
  /** References that contradict the others: far off both in pixels and against them, with lines enough to say so. */
  readonly disagreeing: ReadonlySet<string>;
}

interface IdealLine {
  readonly id: string;
  readonly kind: Reference['kind'];
  readonly a: Point;
  readonly b: Point;
  readonly statedRad: number;
  readonly weight: number;
  readonly length: number;
}

/** Pull on tilt and swing, px a degree, towards the previous round's value. */
const PULL_PX_PER_DEG = 0.1;
const SD_UNDETERMINED_DEG = 5;
const GOOD_ENOUGH_PX = 2;
const STEEPEST_WALL_DEG = 70;
const STEEPEST_FLOOR_DEG = 89;

/** Smoothstep weight of a line by its length: none below 1 % of the diagonal, full above 3 %. */
function lengthWeight(length: number, diagonalPx: number): number {
  const t = Math.min(1, Math.max(0, (length / diagonalPx - 0.01) / 0.02));
  return t * t * (3 - 2 * t);
}

/** A reference's ends in ideal space (turned), px; null when an end has no image through the lens. */
export function referenceInIdeal(
  correction: Correction,
  size: Size,
  reference: Pick<Reference, 'a' | 'b'>,
): readonly [Point, Point] | null {
  const lens = correction.lens.on ? lensOf(correction.lens.model, size) : noLens(size);
  const out = new Float64Array(2);
  const through = (p: Point): Point | null =>
    lens.undistort(p[0], p[1], out) ? turnPoint([out[0] as number, out[1] as number], size, correction.stance.quarterTurns) : null;
  const [a, b] = [through(reference.a), through(reference.b)];
  return a && b ? [a, b] : null;
}

/**
 * Stance from the used references by weighted least squares: the movements that the lines determine, the others left at zero.
 * One line of any kind determines roll alone and comes true exactly. Never throws on contradictory input.
 *
 * @returns null when no used reference has a usable length
 * Source: residuals and table as in docs/decisions; Levenberg-Marquardt.
 */
export function solveStance(correction: Correction, size: Size): StanceSolution | null {
  const turnedDiagonal = diagonal(size);
  const lines: IdealLine[] = [];
  for (const reference of correction.references) {
    if (!reference.used) continue;
    const ends = referenceInIdeal(correction, size, reference);
    if (!ends) continue;
    const length = Math.hypot(ends[0][0] - ends[1][0], ends[0][1] - ends[1][1]);
    const weight = lengthWeight(length, turnedDiagonal);
    if (weight > 0) {
      lines.push({
        id: reference.id,
        kind: reference.kind,
        a: ends[0],
        b: ends[1],
        statedRad: radians(reference.statedAngle),
        weight,
        length,
      });
    }
  }
  if (lines.length === 0) return null;
  const free = determinedBy(lines, correction);
  const f = correction.camera.flat ? 1000 * turnedDiagonal : focalPxOfCorrection(correction);
  const c = turnPoint(opticalCentreOf(correction), size, correction.stance.quarterTurns);
  const front = correction.camera.flat ? 'sheet' : correction.stance.front;
  const facing = facingOf(correction);
  const residuals = (attitude: Attitude): number[] => lines.flatMap((line) => lineResiduals(line, attitude, facing, f, c));
  const steepest = front === 'floor' || front === 'ceiling' ? STEEPEST_FLOOR_DEG : STEEPEST_WALL_DEG;

  const rollStart = meanAngleDeg(lines);
  let best: { attitude: Attitude; fit: Fit } | null = null;
  const starts: Attitude[] = [
    { roll: rollStart, tilt: 0, swing: 0 },
    ...(free.includes('tilt') ? [20, -20].map((tilt) => ({ roll: rollStart, tilt, swing: 0 })) : []),
    ...(free.includes('swing') ? [25, -25].map((swing) => ({ roll: rollStart, tilt: 0, swing })) : []),
    ...(free.length === 3 ? [25, -25].flatMap((swing) => [20, -20].map((tilt) => ({ roll: rollStart, tilt, swing }))) : []),
  ];
  for (const start of starts) {
    const solved = solveFrom(start, free, residuals, steepest);
    if (!best || solved.fit.cost < best.fit.cost - 1e-9) best = solved;
    // a start that already explains the lines to the pointing error needs no rival
    if (best.fit.cost <= (GOOD_ENOUGH_PX ** 2 * lines.length) / 2) break;
  }
  let attitude = (best as { attitude: Attitude }).attitude;
  // one plumb and one level: two answers may exist; used in full only while the tilt and swing are small
  if (free.length === 3 && lines.length === 2) {
    const size2 = Math.hypot(attitude.tilt, attitude.swing);
    const fade = Math.min(1, Math.max(0, (20 - size2) / 10));
    if (fade < 1) {
      const held = { roll: attitude.roll, tilt: attitude.tilt * fade, swing: attitude.swing * fade };
      attitude = solveRollOnly(held, residuals);
    }
  }
  const r = residuals(attitude);
  const sd = standardDeviations(attitude, free, residuals, r, lines.length);
  const residualPx = new Map<string, number>();
  lines.forEach((line) => {
    const own = lineResiduals(line, attitude, facing, f, c);
    residualPx.set(line.id, Math.abs(own[0] ?? 0) / Math.max(1e-9, line.weight));
  });
  return {
    attitude,
    determined: free,
    sd,
    residualPx,
    disagreeing: disagreeing(correction, size, worstDisagreeing(residualPx, free.length, turnedDiagonal)),
  };
}

/**
 * The line that contradicts the others most, or null: 3 px off on a diagonal of 7211 px (6000 x 4000), and three times the median of
 * the others, with two lines more than unknowns.
 */
function worstDisagreeing(residualPx: ReadonlyMap<string, number>, unknowns: number, diagonalPx: number): string | null {
  const sorted = [...residualPx].sort(([, p], [, q]) => q - p);
  const [worst, ...others] = sorted;
  if (!worst || sorted.length < unknowns + 2) return null;
  const median = others[others.length >> 1]?.[1] ?? 0;
  return worst[1] > (3 * diagonalPx) / 7211 && worst[1] > 3 * median ? worst[0] : null;
}

/** A bad line pulls the good ones with it: the next is judged by what the rest say without the worst. */
function disagreeing(correction: Correction, size: Size, worst: string | null): ReadonlySet<string> {
  if (worst === null) return new Set();
  const rest = solveStance({ ...correction, references: correction.references.filter((r) => r.id !== worst) }, size);
  return new Set([worst, ...(rest?.disagreeing ?? [])]);
}

/** The table of what is determined by what, narrowed by what the lines may do. */
function determinedBy(lines: readonly IdealLine[], { stance, camera }: Correction): Movement[] {
  const count = (kind: Reference['kind']): number => lines.filter((line) => line.kind === kind).length;
  const [plumbs, levels, returns, eyes] = [count('plumb'), count('level'), count('return'), count('eye')];
  if (camera.flat || stance.may === 'turn-only' || (lines.length === 1 && eyes === 0)) return ['roll'];
  const tilt = plumbs >= 2 || eyes >= 1 || (plumbs >= 1 && (levels >= 1 || returns >= 1)) || (levels >= 2 && returns >= 1);
  if (stance.may === 'stand-plumb') return tilt ? ['roll', 'tilt'] : ['roll'];
  const swing = levels >= 2 || returns >= 1 || (plumbs >= 1 && levels >= 1) || (eyes >= 1 && levels >= 1);
  return ['roll', ...(tilt ? (['tilt'] as const) : []), ...(swing ? (['swing'] as const) : [])];
}

function solveFrom(
  start: Attitude,
  free: readonly Movement[],
  residuals: (a: Attitude) => number[],
  steepest: number,
): { attitude: Attitude; fit: Fit } {
  const clampAngle = (value: number): number => Math.min(steepest, Math.max(-steepest, value));
  const toAttitude = (x: readonly number[]): Attitude => {
    const at = (movement: Movement): number => {
      const k = free.indexOf(movement);
      return k < 0 ? 0 : (x[k] as number);
    };
    return { roll: at('roll'), tilt: clampAngle(at('tilt')), swing: clampAngle(at('swing')) };
  };
  let x: readonly number[] = free.map((movement) => start[movement]);
  let pulledTo = free.map(() => 0);
  let fit: Fit = { x, cost: Infinity, normal: [] };
  for (let round = 0; round < 3; round += 1) {
    const target = pulledTo;
    fit = levenbergMarquardt(
      (v) => [
        ...residuals(toAttitude(v)),
        ...free.flatMap((movement, k) => (movement === 'roll' ? [] : [PULL_PX_PER_DEG * ((v[k] as number) - (target[k] as number))])),
      ],
      x,
      free.map(() => 1e-4),
    );
    x = fit.x;
    pulledTo = [...x];
  }
  const attitude = toAttitude(x);
  const cost = residuals(attitude).reduce((sum, value) => sum + value * value, 0) / 2;
  return { attitude, fit: { ...fit, cost } };
}

const solveRollOnly = (held: Attitude, residuals: (a: Attitude) => number[]): Attitude => {
  const fit = levenbergMarquardt((v) => residuals({ ...held, roll: v[0] as number }), [held.roll], [1e-4]);
  return { ...held, roll: fit.x[0] as number };
};

/** Residuals of one line, px: one for plumb, level and return, two for the eye line. */
function lineResiduals(line: IdealLine, attitude: Attitude, facing: Mat3, f: number, [cx, cy]: Point): number[] {
  const toCamera = worldToCamera(facing, attitude);
  const k: Mat3 = [f, 0, cx, 0, f, cy, 0, 0, 1];
  const stated = line.statedRad;
  if (line.kind === 'eye') {
    // the horizon itself: K^-T R^T e_y, turned by the stated angle about its middle
    const normal = apply3(multiply3(toCamera, rotationZ(-stated)), [0, 1, 0]);
    const l: Vec3 = [normal[0] / f, normal[1] / f, normal[2] - (normal[0] * cx + normal[1] * cy) / f];
    const length = Math.hypot(l[0], l[1]);
    if (length < 1e-12) return [1e4, 1e4];
    return [line.a, line.b].map((p) => (line.weight * (l[0] * p[0] + l[1] * p[1] + l[2])) / length);
  }
  const v = apply3(k, apply3(toCamera, worldDirection(line.kind, degrees(stated))));
  const m: Point = [(line.a[0] + line.b[0]) / 2, (line.a[1] + line.b[1]) / 2];
  const through = cross3([m[0], m[1], 1], v);
  const length = Math.hypot(through[0], through[1]);
  if (length < 1e-12) return [0];
  const signed = (p: Point): number => dot3(through, [p[0], p[1], 1]) / length;
  return [(line.weight * (signed(line.a) - signed(line.b))) / Math.SQRT2];
}

/** Length-weighted mean of what each line says about roll. */
function meanAngleDeg(lines: readonly IdealLine[]): number {
  let [sum, total] = [0, 0];
  for (const line of lines) {
    if (line.kind === 'return') continue;
    const angle = line.kind === 'plumb' ? leanDeg(line.a, line.b) : slopeDeg(line.a, line.b);
    sum += (angle - degrees(line.statedRad)) * line.length;
    total += line.length;
  }
  return total > 0 ? sum / total : 0;
}

function standardDeviations(
  attitude: Attitude,
  free: readonly Movement[],
  residuals: (a: Attitude) => number[],
  r: readonly number[],
  lines: number,
): Record<Movement, number | null> {
  const n = free.length;
  const h = 1e-4;
  const columns = free.map((movement) => {
    const plus = residuals({ ...attitude, [movement]: attitude[movement] + h });
    const minus = residuals({ ...attitude, [movement]: attitude[movement] - h });
    return plus.map((p, i) => (p - (minus[i] as number)) / (2 * h));
  });
  const normal = columns.flatMap((a) => columns.map((b) => a.reduce((sum, value, i) => sum + value * (b[i] as number), 0)));
  const squares = r.reduce((sum, value) => sum + value * value, 0);
  const sigmaSq = Math.max(1, lines > n ? squares / (lines - n) : 0);
  const sd: Record<Movement, number | null> = { roll: null, tilt: null, swing: null };
  free.forEach((movement, k) => {
    const unit = free.map((_, j) => (j === k ? 1 : 0));
    const column = solveLinear(normal, unit);
    const variance = column?.[k];
    const value = variance !== undefined && variance > 0 ? Math.sqrt(sigmaSq * variance) : Infinity;
    sd[movement] = value <= SD_UNDETERMINED_DEG ? value : null;
  });
  return sd;
}
