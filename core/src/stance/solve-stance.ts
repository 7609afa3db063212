import type { Correction } from '../correction/schema';
import { apply3, type Mat3 } from '../linear/mat3';
import { levenbergMarquardt, solveLinear } from '../linear/levenberg-marquardt';
import { degrees, diagonal, type Point, type Size } from '../picture/point';
import { turnPoint, turnedSize } from '../picture/quarter-turns';
import { leanDeg, slopeDeg } from '../picture/line-angle';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import type { Attitude } from './attitude';
import { determinedBy, directionsSeen, type Movement } from './determined-by';
import { lineResiduals, type SeenCamera } from './line-residuals';
import { stanceHomography } from './stance-homography';
import { trueLines, type TrueLine } from './true-lines';
import { facingOf, worldToCamera } from './world-direction';

/** A figure of the camera that was asked of the references: found with its standard deviation, or why it was not. */
export type Asked<T> = { readonly found: T; readonly sd: number } | { readonly found: null; readonly why: string };

/** Result of solving the stance. */
export interface StanceSolution {
  readonly attitude: Attitude;
  /** How the camera stood by all the lines say, whatever they may do; the same as `attitude` unless they may only turn. */
  readonly seen: Attitude;
  /** Which movements the references determine. */
  readonly determined: readonly Movement[];
  /** Standard deviations, degrees; null where undetermined. */
  readonly sd: Readonly<Record<Movement, number | null>>;
  /** Focal length, ideal px, with the standard deviation of its logarithm; null when it was not asked for. */
  readonly focal: Asked<number> | null;
  /** Optical centre in turned ideal px, with the greater standard deviation of the two, px; null when it was not asked for. */
  readonly centre: Asked<Point> | null;
  /** How far each line's ends are off true, px (deviation of the pointing), by id of reference or panel edge. */
  readonly residualPx: ReadonlyMap<string, number>;
  /** Lines that contradict the others: far off both in pixels and against them, with lines enough to say so. */
  readonly disagreeing: ReadonlySet<string>;
}

type Unknown = Movement | 'logFocal' | 'centreX' | 'centreY';

/** Pull on tilt and swing, px a degree, towards the previous round's value. */
const PULL_PX_PER_DEG = 0.1;
/** Pull on the logarithm of the focal length and on the centre: 0.02 px at one deviation, of 0.5 and of a twentieth of the diagonal. */
const PRIOR_PX = 0.02;
const PRIOR_LOG_FOCAL = 0.5;
const PRIOR_CENTRE_DIAGONALS = 0.05;
/** A focal length or centre less sure than this is not taken. */
const SUREST_LOG_FOCAL = 0.05;
const SUREST_CENTRE_DIAGONALS = 0.02;
const FARTHEST_CENTRE_DIAGONALS = 0.5;
const SD_UNDETERMINED_DEG = 5;
const GOOD_ENOUGH_PX = 2;
/** A focal length that leaves less than this, px, has not gone astray. */
const PLAUSIBLE_PX = 5;
const STEEPEST_WALL_DEG = 70;
const STEEPEST_FLOOR_DEG = 89;
const STEP: Readonly<Record<Unknown, number>> = { roll: 1e-4, tilt: 1e-4, swing: 1e-4, logFocal: 1e-6, centreX: 1e-2, centreY: 1e-2 };

/** What stays the same while one set of lines is solved. */
interface Problem {
  readonly lines: readonly TrueLine[];
  readonly facing: Mat3;
  readonly steepest: number;
  readonly diagonalPx: number;
}

interface Solved {
  readonly camera: SeenCamera;
  /** Half the sum of squares, without any pull. */
  readonly cost: number;
}

/**
 * Stance from the used references and the edges of used panels by weighted least squares: the movements that the lines determine, the
 * others left at zero; the focal length when it is asked for or merely assumed, the optical centre when it is asked for and three
 * directions are seen. One line of any kind determines roll alone and comes true exactly. Never throws on contradictory input.
 *
 * @returns null when no used line has a usable length
 * Source: residuals and table as in docs/decisions/geometry.md; Levenberg-Marquardt; Caprile, Torre 1990 for the focal length.
 */
export function solveStance(correction: Correction, size: Size): StanceSolution | null {
  const { camera, stance } = correction;
  const lines = trueLines(correction, size);
  if (lines.length === 0) return null;
  const free = determinedBy(lines, correction);
  const front = camera.flat ? 'sheet' : stance.front;
  const diagonalPx = diagonal(size);
  const problem: Problem = {
    lines,
    facing: facingOf(correction),
    steepest: front === 'floor' || front === 'ceiling' ? STEEPEST_FLOOR_DEG : STEEPEST_WALL_DEG,
    diagonalPx,
  };
  const [centreX, centreY] = turnPoint(opticalCentreOf(correction), size, stance.quarterTurns);
  const focalPx = camera.flat ? 1000 * diagonalPx : focalPxOfCorrection(correction);
  const asTaken: SeenCamera = { roll: 0, tilt: 0, swing: 0, focalPx, centreX, centreY };

  let best = solveFixed(problem, free, asTaken);
  let unknowns: readonly Unknown[] = free;
  const focal = askFocal(correction, problem, free, best);
  if (focal?.solved) {
    best = focal.solved;
    unknowns = [...free, 'logFocal'];
  }
  const centre = askCentre(correction, problem, unknowns, best);
  if (centre?.solved) {
    best = centre.solved;
    unknowns = [...unknowns, 'centreX', 'centreY'];
  }
  // one plumb and one level: two answers may exist; used in full only while the tilt and swing are small
  if (free.length === 3 && lines.length === 2) best = faded(problem, best);

  const turnOnly = stance.may === 'turn-only' && !camera.flat;
  const attitude = turnOnly ? { roll: middleRoll(correction, problem, best.camera, size), tilt: 0, swing: 0 } : attitudeOf(best.camera);
  const deviations = standardDeviations(problem, unknowns, best.camera);
  const reported: readonly Movement[] = turnOnly ? ['roll'] : free;
  const sd = (movement: Movement): number | null => {
    const value = reported.includes(movement) ? deviations[movement] : undefined;
    return value !== undefined && value <= SD_UNDETERMINED_DEG ? value : null;
  };
  const residualPx = new Map(
    lines.map((line) => [line.id, Math.max(...lineResiduals([line], best.camera, problem.facing).map(Math.abs)) / line.weight]),
  );
  return {
    attitude,
    seen: attitudeOf(best.camera),
    determined: reported,
    sd: { roll: sd('roll'), tilt: sd('tilt'), swing: sd('swing') },
    // the centre takes the focal length along
    focal: focal?.solved ? { found: best.camera.focalPx, sd: deviations.logFocal ?? Infinity } : (focal?.answer ?? null),
    centre: centre && centre.answer,
    residualPx,
    disagreeing: disagreeing(correction, size, worstDisagreeing(residualPx, unknowns.length, diagonalPx)),
  };
}

const attitudeOf = ({ roll, tilt, swing }: SeenCamera): Attitude => ({ roll, tilt, swing });

/** The movements under a known focal length and centre, from several starts; the lowest cost wins. */
function solveFixed(problem: Problem, free: readonly Movement[], from: SeenCamera): Solved {
  const roll = meanAngleDeg(problem.lines);
  const starts: Attitude[] = [
    { roll, tilt: 0, swing: 0 },
    ...(free.includes('tilt') ? [20, -20].map((tilt) => ({ roll, tilt, swing: 0 })) : []),
    ...(free.includes('swing') ? [25, -25].map((swing) => ({ roll, tilt: 0, swing })) : []),
    ...(free.length === 3 ? [25, -25].flatMap((swing) => [20, -20].map((tilt) => ({ roll, tilt, swing }))) : []),
  ];
  let best: Solved | null = null;
  for (const start of starts) {
    const solved = descend(problem, free, { ...from, ...start });
    if (!best || solved.cost < best.cost - 1e-9) best = solved;
    // a start that already explains the lines to the pointing error needs no rival
    if (best.cost <= (GOOD_ENOUGH_PX ** 2 * problem.lines.length) / 2) break;
  }
  return best as Solved;
}

/** One descent over the unknowns; movements that are not free stay at zero. */
function descend(problem: Problem, unknowns: readonly Unknown[], start: SeenCamera): Solved {
  const clampAngle = (value: number): number => Math.min(problem.steepest, Math.max(-problem.steepest, value));
  const toCamera = (x: readonly number[]): SeenCamera => {
    const at = (unknown: Unknown, otherwise: number): number => {
      const k = unknowns.indexOf(unknown);
      return k < 0 ? otherwise : (x[k] as number);
    };
    const logFocal = at('logFocal', Math.log(start.focalPx));
    return {
      roll: at('roll', 0),
      tilt: clampAngle(at('tilt', 0)),
      swing: clampAngle(at('swing', 0)),
      focalPx: Math.min(10 * problem.diagonalPx, Math.max(0.2 * problem.diagonalPx, Math.exp(logFocal))),
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
        return PULL_PX_PER_DEG;
      case 'logFocal':
        return PRIOR_PX / PRIOR_LOG_FOCAL;
      case 'centreX':
      case 'centreY':
        return PRIOR_PX / (PRIOR_CENTRE_DIAGONALS * problem.diagonalPx);
    }
  };
  let x: readonly number[] = unknowns.map(first);
  // tilt and swing are pulled to zero first, then to where they went; focal length and centre always to what was known
  let target = unknowns.map((unknown) => (unknown === 'tilt' || unknown === 'swing' ? 0 : first(unknown)));
  for (let round = 0; round < 3; round += 1) {
    const towards = target;
    x = levenbergMarquardt(
      (v) => [
        ...lineResiduals(problem.lines, toCamera(v), problem.facing),
        ...unknowns.flatMap((unknown, k) => (unknown === 'roll' ? [] : [pull(unknown) * ((v[k] as number) - (towards[k] as number))])),
      ],
      x,
      unknowns.map((unknown) => STEP[unknown]),
    ).x;
    target = unknowns.map((unknown, k) => (unknown === 'tilt' || unknown === 'swing' ? (x[k] as number) : (towards[k] as number)));
  }
  const camera = toCamera(x);
  return { camera, cost: lineResiduals(problem.lines, camera, problem.facing).reduce((sum, r) => sum + r * r, 0) / 2 };
}

interface Answer<T> {
  readonly answer: Asked<T>;
  readonly solved: Solved | null;
}

/** The focal length, when it is asked for or merely assumed; tried from three lengths, since a wrong one leads a descent astray. */
function askFocal({ camera, stance }: Correction, problem: Problem, free: readonly Movement[], fixed: Solved): Answer<number> | null {
  if (camera.flat || (camera.focalFrom !== 'assumed' && camera.focalFrom !== 'references')) return null;
  const no = (why: string): Answer<number> => ({ answer: { found: null, why }, solved: null });
  if (stance.may !== 'square-on') return no('The focal length is only solved while the lines may bring the front square-on.');
  if (directionsSeen(problem.lines) < 2) return no('The focal length needs two lines of one kind and two of another, or a panel.');
  const unknowns = [...free, 'logFocal'] as const;
  let solved = descend(problem, unknowns, fixed.camera);
  for (const factor of [0.6, 1.7]) {
    if (solved.cost <= (PLAUSIBLE_PX ** 2 * problem.lines.length) / 2) break;
    const rival = descend(problem, unknowns, { ...fixed.camera, focalPx: fixed.camera.focalPx * factor });
    if (rival.cost < solved.cost - 1e-9) solved = rival;
  }
  const sd = standardDeviations(problem, unknowns, solved.camera).logFocal ?? Infinity;
  if (!(sd < SUREST_LOG_FOCAL)) return no('These lines converge too little to tell the focal length; it stays as it was.');
  return { answer: { found: solved.camera.focalPx, sd }, solved };
}

/** The optical centre, when it is asked for and plumb, level and return lines, two of each, are seen. */
function askCentre({ camera }: Correction, problem: Problem, unknowns: readonly Unknown[], from: Solved): Answer<Point> | null {
  if (camera.flat || camera.centreFrom !== 'references') return null;
  const no = (why: string): Answer<Point> => ({ answer: { found: null, why }, solved: null });
  if (directionsSeen(problem.lines) < 3 || !unknowns.includes('logFocal'))
    return no('The optical centre needs two plumb, two level and two return lines, and the focal length solved with it.');
  const all = [...unknowns, 'centreX', 'centreY'] as const;
  const solved = descend(problem, all, from.camera);
  const deviations = standardDeviations(problem, all, solved.camera);
  const sd = Math.max(deviations.centreX ?? Infinity, deviations.centreY ?? Infinity);
  const { centreX, centreY } = solved.camera;
  const off = Math.hypot(centreX - from.camera.centreX, centreY - from.camera.centreY);
  if (!(sd < SUREST_CENTRE_DIAGONALS * problem.diagonalPx) || off > FARTHEST_CENTRE_DIAGONALS * problem.diagonalPx)
    return no('These lines do not tell where the optical centre is; it stays as it was.');
  return { answer: { found: [centreX, centreY], sd }, solved };
}

/** Tilt and swing of two lines alone, used in full up to 10 degrees together and faded to none at 20; roll solved again. */
function faded(problem: Problem, best: Solved): Solved {
  const { camera } = best;
  const fade = Math.min(1, Math.max(0, (20 - Math.hypot(camera.tilt, camera.swing)) / 10));
  if (fade === 1) return best;
  const held = { ...camera, tilt: camera.tilt * fade, swing: camera.swing * fade };
  const fit = levenbergMarquardt(
    (v) => lineResiduals(problem.lines, { ...held, roll: v[0] as number }, problem.facing),
    [held.roll],
    [STEP.roll],
  );
  return { camera: { ...held, roll: fit.x[0] as number }, cost: fit.cost };
}

/**
 * Roll that makes the vertical in the middle of the crop plumb while tilt and swing stay untouched, degrees: the crop by hand where
 * there is one, else the picture's middle, which is the middle of every trim of a picture that is only turned.
 */
function middleRoll(correction: Correction, { facing, lines }: Problem, camera: SeenCamera, size: Size): number {
  const { rect } = correction.crop;
  const turned = turnedSize(size, correction.stance.quarterTurns);
  let at: Point = [turned.width / 2, turned.height / 2];
  if (rect) {
    const { toIdeal } = stanceHomography({ ...correction, stance: { ...correction.stance, tilt: 0, swing: 0 } }, size);
    const [x, y, w] = apply3(toIdeal, [rect.x + rect.width / 2, rect.y + rect.height / 2, 1]);
    at = [x / w, y / w];
  }
  const d = apply3(worldToCamera(facing, camera), [0, 1, 0]);
  const [dx, dy] = [camera.focalPx * d[0] + (camera.centreX - at[0]) * d[2], camera.focalPx * d[1] + (camera.centreY - at[1]) * d[2]];
  // a line alone comes true where it is
  return lines.length === 1 ? camera.roll : degrees(Math.atan(dx / dy));
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
  const panelId = worst.includes(':') ? worst.slice(0, worst.indexOf(':')) : null;
  const rest = solveStance(
    {
      ...correction,
      references: correction.references.filter((r) => r.id !== worst),
      panels: correction.panels.filter((p) => p.id !== panelId),
    },
    size,
  );
  return new Set([worst, ...(rest?.disagreeing ?? [])]);
}

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

/**
 * Standard deviations of the unknowns at the solution, without any pull: sigma^2 (J^T J)^-1, sigma at least 1 px; Infinity where the
 * lines say nothing.
 */
function standardDeviations(problem: Problem, unknowns: readonly Unknown[], camera: SeenCamera): Partial<Record<Unknown, number>> {
  const residuals = (change: Partial<SeenCamera>): number[] => lineResiduals(problem.lines, { ...camera, ...change }, problem.facing);
  const columns = unknowns.map((unknown) => {
    const h = STEP[unknown];
    const moved = (by: number): number[] =>
      residuals(unknown === 'logFocal' ? { focalPx: camera.focalPx * Math.exp(by) } : { [unknown]: camera[unknown] + by });
    const [plus, minus] = [moved(h), moved(-h)];
    return plus.map((p, i) => (p - (minus[i] as number)) / (2 * h));
  });
  const n = unknowns.length;
  const normal = columns.flatMap((a) => columns.map((b) => a.reduce((sum, value, i) => sum + value * (b[i] as number), 0)));
  const r = residuals({});
  const squares = r.reduce((sum, value) => sum + value * value, 0);
  const sigmaSq = Math.max(1, r.length > n ? squares / (r.length - n) : 0);
  return Object.fromEntries(
    unknowns.map((unknown, k) => {
      const variance = solveLinear(
        normal,
        unknowns.map((_, j) => (j === k ? 1 : 0)),
      )?.[k];
      return [unknown, variance !== undefined && variance > 0 ? Math.sqrt(sigmaSq * variance) : Infinity];
    }),
  );
}
