import type { Mat3 } from '../linear/mat3';
import { levenbergMarquardt } from '../linear/levenberg-marquardt';
import { inverseOf } from '../linear/symmetric';
import { degrees } from '../picture/point';
import { leanDeg, slopeDeg } from '../picture/line-angle';
import type { Attitude } from './attitude';
import type { Movement } from './determined-by';
import { lineResiduals, type SeenCamera } from './line-residuals';
import type { TrueLine } from './true-lines';

/** What a descent moves. */
export type Unknown = Movement | 'logFocal' | 'centreX' | 'centreY';

/** What stays the same while one set of lines is solved. */
export interface Problem {
  readonly lines: readonly TrueLine[];
  readonly facing: Mat3;
  /** Greatest tilt and swing, degrees. */
  readonly steepest: number;
  readonly diagonalPx: number;
  /** How well a line in the middle of them was placed, px: pulls are meant in px of it. */
  readonly sdPx: number;
}

/** A camera and what it leaves. */
export interface Solved {
  readonly camera: SeenCamera;
  /** Sum of the squares of what the lines are off in their own deviations, without any pull. */
  readonly chiSq: number;
}

/** Pull on tilt and swing, px a degree, towards the previous round's value. */
const PULL_PX_PER_DEG = 0.1;
/** Pull on the logarithm of the focal length and on the centre: 0.02 px at one deviation, of 0.5 and of a twentieth of the diagonal. */
const PRIOR_PX = 0.02;
const PRIOR_LOG_FOCAL = 0.5;
const PRIOR_CENTRE_DIAGONALS = 0.05;
const GOOD_ENOUGH_PX = 2;
/** Difference steps of each unknown. */
export const STEP: Readonly<Record<Unknown, number>> = {
  roll: 1e-4,
  tilt: 1e-4,
  swing: 1e-4,
  logFocal: 1e-6,
  centreX: 1e-2,
  centreY: 1e-2,
};

/** While searching a descent has settled when nothing moves by a tenth of a step: angles by 0.00001 degrees. */
const SEARCHING_STEPS = 0.1;

/** What the lines are off under a camera, in their own deviations. */
export const offOf = ({ lines, facing }: Problem, camera: SeenCamera): number[] => lineResiduals(lines, camera, facing);

/** Sum of squares. */
export const squaresOf = (values: readonly number[]): number => values.reduce((sum, v) => sum + v * v, 0);

/** Below this a set of lines is explained, or has not gone astray: so many px, or so many deviations where lines are placed worse. */
export const explained = ({ lines, sdPx }: Problem, px = GOOD_ENOUGH_PX): number => Math.max(px, px / sdPx) ** 2 * lines.length;

/** The movements under a known focal length and centre, with another answer that fits about as well. */
export interface SolvedFixed extends Solved {
  /** The likeliest other answer, and how likely it is beside this one; null where there is none. */
  readonly rival: { readonly camera: SeenCamera; readonly share: number } | null;
}

/** How people stand where nothing tells, degrees (common practice, no published source): one standard deviation. */
export const USUAL_TILT_DEG = 8;
export const USUAL_SWING_DEG = 15;
/** Answers that differ by less are one, degrees. */
const SAME_DEG = 0.05;

/**
 * The movements under a known focal length and centre, from several starts; the lowest cost wins. Where the lines are hardly more than what
 * is solved from them several answers may fit: of those the one that is most like how people stand is taken.
 */
export function solveFixed(problem: Problem, free: readonly Movement[], from: SeenCamera): SolvedFixed {
  const roll = meanAngleDeg(problem.lines);
  const starts: Attitude[] = [
    { roll, tilt: 0, swing: 0 },
    ...(free.includes('tilt') ? [20, -20].map((tilt) => ({ roll, tilt, swing: 0 })) : []),
    ...(free.includes('swing') ? [25, -25].map((swing) => ({ roll, tilt: 0, swing })) : []),
    ...(free.length === 3 ? [25, -25].flatMap((swing) => [20, -20].map((tilt) => ({ roll, tilt, swing }))) : []),
  ];
  const ambiguous = free.length === 3 && problem.lines.length <= 3;
  const found: Solved[] = [];
  for (const start of starts) {
    // where all are tried, a look at each is enough before the best are settled
    const solved = descend(problem, free, { ...from, ...start }, { rounds: ambiguous ? 1 : 3, from: 'zero' });
    if (!atEnd(problem, solved.camera) || found.length === 0) found.push(solved);
    // a start that already explains the lines to the pointing error needs no rival
    if (!ambiguous && solved.chiSq <= explained(problem)) break;
  }
  const unlike = ({ camera, chiSq }: Solved): number =>
    chiSq + (ambiguous ? (camera.tilt / USUAL_TILT_DEG) ** 2 + (camera.swing / USUAL_SWING_DEG) ** 2 : 0);
  const looked = found.reduce((p, q) => (unlike(q) < unlike(p) - 1e-9 ? q : p));
  const best = ambiguous ? descend(problem, free, looked.camera, { rounds: 3, from: 'start' }) : looked;
  const far = (p: SeenCamera, q: SeenCamera): boolean => Math.hypot(p.roll - q.roll, p.tilt - q.tilt, p.swing - q.swing) > SAME_DEG;
  const others = ambiguous ? found.filter((other) => far(other.camera, best.camera)) : [];
  const rival = others.reduce<Solved | null>((p, q) => (p && unlike(p) <= unlike(q) ? p : q), null);
  const likelihood = rival && Math.exp((unlike(best) - unlike(rival)) / 2);
  return { ...best, rival: rival && likelihood !== null ? { camera: rival.camera, share: likelihood / (1 + likelihood) } : null };
}

/** Whether a camera was stopped at the greatest tilt or swing there is: the lines would go on. */
export const atEnd = ({ steepest }: Problem, { tilt, swing }: SeenCamera): boolean =>
  Math.abs(tilt) > steepest - 0.01 || Math.abs(swing) > steepest - 0.01;

/** Lines have no direction: of the two cameras that see them alike, the one that stands on its feet. */
function onItsFeet(camera: SeenCamera): SeenCamera {
  const roll = camera.roll - 360 * Math.round(camera.roll / 360);
  if (Math.abs(roll) <= 90) return { ...camera, roll };
  return { ...camera, roll: roll - 180 * Math.sign(roll), tilt: -camera.tilt, swing: -camera.swing };
}

/** A solved camera with the focal length or something else of it changed, its movements settled anew beside it. */
export const settled = (problem: Problem, free: readonly Movement[], changed: SeenCamera): Solved =>
  descend(problem, free, changed, { rounds: 2, from: 'start' });

/**
 * One descent over the unknowns; movements that are not free stay at zero, or where they start when that is asked for.
 * @param how rounds of pulling tilt and swing; towards zero at first, or towards where they start; whether to go on until nothing moves, or
 *   only until it no longer matters while searching
 */
export function descend(
  problem: Problem,
  unknowns: readonly Unknown[],
  start: SeenCamera,
  how: { readonly rounds: number; readonly from: 'zero' | 'start'; readonly searching?: boolean } = { rounds: 3, from: 'zero' },
): Solved {
  const clampAngle = (value: number): number => Math.min(problem.steepest, Math.max(-problem.steepest, value));
  const still = (movement: Movement): number => (how.from === 'start' ? start[movement] : 0);
  const toCamera = (x: readonly number[]): SeenCamera => {
    const at = (unknown: Unknown, otherwise: number): number => {
      const k = unknowns.indexOf(unknown);
      return k < 0 ? otherwise : (x[k] as number);
    };
    const logFocal = at('logFocal', Math.log(start.focalPx));
    return {
      roll: at('roll', still('roll')),
      tilt: clampAngle(at('tilt', still('tilt'))),
      swing: clampAngle(at('swing', still('swing'))),
      focalPx: unknowns.includes('logFocal')
        ? Math.min(10 * problem.diagonalPx, Math.max(0.2 * problem.diagonalPx, Math.exp(logFocal)))
        : start.focalPx,
      centreX: at('centreX', start.centreX),
      centreY: at('centreY', start.centreY),
    };
  };
  const first = (unknown: Unknown): number => (unknown === 'logFocal' ? Math.log(start.focalPx) : start[unknown]);
  const pull = (unknown: Unknown): number => {
    switch (unknown) {
      case 'roll':
        return 0;
      case 'tilt':
      case 'swing':
        return PULL_PX_PER_DEG / problem.sdPx;
      case 'logFocal':
        return PRIOR_PX / PRIOR_LOG_FOCAL / problem.sdPx;
      case 'centreX':
      case 'centreY':
        return PRIOR_PX / (PRIOR_CENTRE_DIAGONALS * problem.diagonalPx) / problem.sdPx;
    }
  };
  const angle = (unknown: Unknown): boolean => unknown === 'tilt' || unknown === 'swing';
  let x: readonly number[] = unknowns.map(first);
  // tilt and swing are pulled to zero first, then to where they went; focal length and centre always to what was known
  let target = unknowns.map((unknown) => (angle(unknown) && how.from === 'zero' ? 0 : first(unknown)));
  for (let round = 0; round < how.rounds; round += 1) {
    const towards = target;
    x = levenbergMarquardt(
      (v) => {
        const off = offOf(problem, toCamera(v));
        for (const [k, unknown] of unknowns.entries())
          if (unknown !== 'roll') off.push(pull(unknown) * ((v[k] as number) - (towards[k] as number)));
        return off;
      },
      x,
      unknowns.map((unknown) => STEP[unknown]),
      how.searching ? SEARCHING_STEPS : undefined,
    ).x;
    target = unknowns.map((unknown, k) => (angle(unknown) ? (x[k] as number) : (towards[k] as number)));
  }
  const camera = onItsFeet(toCamera(x));
  return { camera, chiSq: squaresOf(offOf(problem, camera)) };
}

/** By how much what the lines are off changes with each unknown: a column for each. */
export function slopesOf(problem: Problem, unknowns: readonly Unknown[], camera: SeenCamera): number[][] {
  return unknowns.map((unknown) => {
    const h = STEP[unknown];
    const moved = (by: number): number[] =>
      offOf(
        problem,
        unknown === 'logFocal' ? { ...camera, focalPx: camera.focalPx * Math.exp(by) } : { ...camera, [unknown]: camera[unknown] + by },
      );
    const [plus, minus] = [moved(h), moved(-h)];
    return plus.map((p, i) => (p - (minus[i] as number)) / (2 * h));
  });
}

/** Sums of products of columns, row-major. */
export const normalOf = (columns: readonly (readonly number[])[]): number[] =>
  columns.flatMap((a) => columns.map((b) => a.reduce((sum, value, i) => sum + value * (b[i] as number), 0)));

/** Variances of the unknowns at a camera, each alone, where the lines have the deviations they say; null where they do not determine them. */
export function variancesOf(problem: Problem, unknowns: readonly Unknown[], camera: SeenCamera): readonly number[] | null {
  const n = unknowns.length;
  const inverse = inverseOf(normalOf(slopesOf(problem, unknowns, camera)), n);
  const variances = inverse && unknowns.map((_, k) => inverse[k * n + k] as number);
  return variances?.every((v) => v > 0) ? variances : null;
}

/** What the lines scatter by beyond their own deviations: at least 1, since a good fit of few lines says nothing. */
export const scatterSq = (chiSq: number, residuals: number, unknowns: number): number =>
  Math.max(1, residuals > unknowns ? chiSq / (residuals - unknowns) : 0);

/** Length-weighted mean of what each line says about roll. */
function meanAngleDeg(lines: readonly TrueLine[]): number {
  let [sum, total] = [0, 0];
  for (const line of lines) {
    if (line.kind === 'return') continue;
    const angle = line.kind === 'plumb' ? leanDeg(line.a, line.b) : slopeDeg(line.a, line.b);
    sum += (angle - degrees(line.statedRad)) * line.length;
    total += line.length;
  }
  return total > 0 ? sum / total : 0;
}
