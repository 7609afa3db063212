import { rotationX, rotationZ, multiply3, transpose3, apply3 } from '../linear/mat3';
import { degrees, radians } from '../picture/point';
import type { SeenCamera } from '../stance/line-residuals';
import { heldAgainst, offDeg, refine, seenDirection, toleranceOf, type Taken } from './agreeing';
import type { Witness } from './witnesses';

/** Where plumb things may point, and how much of the picture says so. */
export interface PlumbCandidate {
  /** Roll and tilt; swing 0. */
  readonly camera: SeenCamera;
  readonly agree: readonly Witness[];
  readonly against: readonly Witness[];
  /** Length of what agrees, each edge counted up to a quarter of the diagonal; less where nobody holds a camera like that; diagonals. */
  readonly support: number;
}

/** How far cameras roll and tilt, degrees, and how finely that is searched. */
const MOST_ROLL = 20;
const MOST_TILT = 40;
const STEP = 0.8;
/** How people hold cameras, degrees (common practice, no published source): wide enough that only rivals feel it. */
const USUAL_ROLL = 12;
const USUAL_TILT = 40;
/** Edges flatter than this are nothing plumb, degrees off the picture's own vertical. */
const MOST_LEAN = 55;
/** An edge counts for no more than this length, diagonals: one alone is no majority. */
export const MOST_COUNTED = 0.25;
/** Other answers lie at least so far off, degrees; so many are looked at. */
const RIVAL_DEG = 3;
const MOST_RIVALS = 4;
/** What is plumb but for so much speaks against, degrees. */
export const NEAR_DEG = 3.5;

/** Edges that may be plumb by how they lie. */
export const uprightOnes = (witnesses: readonly Witness[]): Witness[] =>
  witnesses.filter(({ p, q }) => degrees(Math.atan2(Math.abs(q[0] - p[0]), Math.abs(q[1] - p[1]))) <= MOST_LEAN);

/**
 * Rolls and tilts under which edges are plumb, the best supported first: the support of every one on a grid, its highest places refined.
 *
 * @param camera focal length and optical centre; its attitude is not used
 */
export function plumbCandidates(witnesses: readonly Witness[], camera: SeenCamera, diagonalPx: number): PlumbCandidate[] {
  const upright = uprightOnes(witnesses);
  if (upright.length === 0) return [];
  const weights = upright.map(({ length }) => Math.min(MOST_COUNTED, length / diagonalPx));
  const [rolls, tilts] = [Math.round(MOST_ROLL / STEP), Math.round(MOST_TILT / STEP)];
  const [columns, rows] = [2 * rolls + 1, 2 * tilts + 1];
  const support = new Float64Array(columns * rows);
  const width = 2 * radians(STEP);
  for (let j = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 1) {
      const r = multiply3(rotationX(radians((j - tilts) * STEP)), rotationZ(radians((i - rolls) * STEP)));
      const [dx, dy, dz] = apply3(transpose3(r), [0, 1, 0]);
      let sum = 0;
      for (let k = 0; k < upright.length; k += 1) {
        const { p, q, length } = upright[k] as Witness;
        const vx = camera.focalPx * dx + (camera.centreX - (p[0] + q[0]) / 2) * dz;
        const vy = camera.focalPx * dy + (camera.centreY - (p[1] + q[1]) / 2) * dz;
        const off = (vx * (q[1] - p[1]) - vy * (q[0] - p[0])) / (length * width);
        const share = (off * off) / (vx * vx + vy * vy);
        if (share < 1) sum += (weights[k] as number) * (1 - share) * (1 - share);
      }
      support[j * columns + i] = sum;
    }
  const found: PlumbCandidate[] = [];
  const tried: { readonly i: number; readonly j: number; readonly value: number }[] = [];
  for (let j = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 1) {
      const value = support[j * columns + i] as number;
      if (value > 0 && isPeak(support, columns, rows, i, j)) tried.push({ i, j, value });
    }
  tried.sort((a, b) => b.value - a.value);
  const taken = upright.map((witness): Taken => ({ witness, kind: 'plumb' }));
  for (const { i, j } of tried.slice(0, 2 * MOST_RIVALS)) {
    const start = { ...camera, roll: (i - rolls) * STEP, tilt: (j - tilts) * STEP, swing: 0 };
    const refined = refine(taken, start, ['roll', 'tilt'], diagonalPx);
    if (Math.abs(refined.roll) > MOST_ROLL + STEP || Math.abs(refined.tilt) > MOST_TILT + STEP) continue;
    const direction = seenDirection(refined, 'plumb');
    const same = found.some((other) => {
      const d = seenDirection(other.camera, 'plumb');
      return degrees(Math.acos(Math.min(1, d[0] * direction[0] + d[1] * direction[1] + d[2] * direction[2]))) < RIVAL_DEG;
    });
    if (same) continue;
    const held = heldAgainst(upright, refined, 'plumb', NEAR_DEG);
    const counted = held.agree.reduce((sum, witness) => {
      const share = offDeg(witness, refined, direction) / toleranceOf(witness);
      return sum + Math.min(MOST_COUNTED, witness.length / diagonalPx) * (1 - share * share);
    }, 0);
    const usual = Math.exp(-((refined.roll / USUAL_ROLL) ** 2 + (refined.tilt / USUAL_TILT) ** 2) / 2);
    found.push({ camera: refined, ...held, support: counted * usual });
    if (found.length > MOST_RIVALS) break;
  }
  return found.sort((p, q) => q.support - p.support);
}

function isPeak(values: Float64Array, columns: number, rows: number, i: number, j: number): boolean {
  const value = values[j * columns + i] as number;
  for (let y = Math.max(0, j - 1); y <= Math.min(rows - 1, j + 1); y += 1)
    for (let x = Math.max(0, i - 1); x <= Math.min(columns - 1, i + 1); x += 1)
      if ((values[y * columns + x] as number) > value) return false;
  return true;
}
