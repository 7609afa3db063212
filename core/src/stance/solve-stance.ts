import type { Correction, Reference } from '../correction/schema';
import { apply3 } from '../linear/mat3';
import { levenbergMarquardt } from '../linear/levenberg-marquardt';
import { degrees, diagonal, type Point, type Size } from '../picture/point';
import { turnPoint, turnedSize } from '../picture/quarter-turns';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import type { Attitude } from './attitude';
import { determinedBy, directionsSeen, type Movement } from './determined-by';
import { worstDisagreement } from './disagreeing';
import { doubtsOf, sightOf, type FocalDoubt } from './doubt';
import { deviationOf, mostlyBy, type Doubt, type DoubtOf, type Sight } from './sight';
import { focalSdLog, SURE_LOG_FOCAL } from './focal-doubt';
import { FLAT_FACTOR, focalRange, PLAUSIBLE_PX, type FocalRange } from './focal-range';
import { lineResiduals, type SeenCamera } from './line-residuals';
import {
  atEnd,
  descend,
  explained,
  offOf,
  scatterSq,
  solveFixed,
  STEP,
  variancesOf,
  type Problem,
  type Solved,
  type Unknown,
} from './problem';
import { stanceHomography } from './stance-homography';
import { trueLines } from './true-lines';
import { facingOf, worldToCamera } from './world-direction';

/** A figure of the camera that was asked of the references: found with its standard deviation, or why it was not. */
export type Asked<T> = { readonly found: T; readonly sd: number } | { readonly found: null; readonly why: string };

/** What the lines say of the focal length, ideal px. */
export interface FocalSaid {
  /** The one they fit best, and how far it may be off: two deviations either way; null where no end is in sight. */
  readonly best: number;
  readonly low: number | null;
  readonly high: number | null;
  /** Standard deviation of its logarithm. */
  readonly sd: number;
  /** Whether the length in use fits clearly worse: by more than two deviations of chi-square (three, where metadata or a profile say it). */
  readonly speaksAgainst: boolean;
  /** Whether they would tell it if they were asked. */
  readonly tells: boolean;
}

/** What would explain a line that contradicts the others, beside its being wrong. */
export type Remedy =
  | { readonly kind: 'kind'; readonly to: Reference['kind'] }
  | { readonly kind: 'focal'; readonly focalPx: number }
  | { readonly kind: 'aside' };

/** Result of solving the stance. */
export interface StanceSolution {
  readonly attitude: Attitude;
  /** How the camera stood by all the lines say, whatever they may do; the same as `attitude` unless they may only turn. */
  readonly seen: Attitude;
  /** The lines that decided, by id of reference or panel edge. */
  readonly counted: ReadonlySet<string>;
  /** Which movements the references determine. */
  readonly determined: readonly Movement[];
  /** Of which directions the lines tell everywhere in the picture: of plumb ones by roll and tilt, of level ones by roll and swing. */
  readonly tells: { readonly plumb: boolean; readonly level: boolean };
  /** Numbers by which the lines exceed what is solved from them: with none, they fit by construction. */
  readonly spare: number;
  /** By how many times more than they were placed the lines scatter, at least 1. */
  readonly scatter: number;
  /** Standard deviations, degrees, with everything that is not known counted in; null where undetermined. */
  readonly sd: Readonly<Record<Movement, number | null>>;
  /** What makes up two thirds of a deviation's square. */
  readonly mostlyBy: Readonly<Record<Movement, DoubtOf | null>>;
  /** Where the camera sees plumb and level things, and everything that is not known of it; none where nothing is determined. */
  readonly sight: Sight;
  readonly doubts: readonly Doubt[];
  /** Focal length, ideal px, with the standard deviation of its logarithm; null when it was not asked for. */
  readonly focal: Asked<number> | null;
  /** What the lines say of the focal length, whether it was taken or not; null where they say nothing. */
  readonly focalSaid: FocalSaid | null;
  /** Optical centre in turned ideal px, with the greater standard deviation of the two, px; null when it was not asked for. */
  readonly centre: Asked<Point> | null;
  /** How far each line's ends are off true, px (deviation of the pointing), by id of reference or panel edge. */
  readonly residualPx: ReadonlyMap<string, number>;
  /** Lines that contradict the others, the worst first, each with what would explain it. */
  readonly disagreeing: ReadonlyMap<string, Remedy>;
}

/** A centre less sure than this is not taken. */
const SUREST_CENTRE_DIAGONALS = 0.02;
const FARTHEST_CENTRE_DIAGONALS = 0.5;
/** A length is contradicted when the lines fit another better by this much chi-square. */
const CLEARLY_SQ = 4;
const CONTRADICTED_SQ = 9;
const SD_UNDETERMINED_DEG = 5;
const STEEPEST_WALL_DEG = 70;
const STEEPEST_FLOOR_DEG = 89;
const MOST_DISAGREEING = 6;

/**
 * Stance from the used references and the edges of used panels by weighted least squares: the movements that the lines determine, the
 * others left at zero; the focal length when it is asked for, or merely assumed and clearly contradicted; the optical centre when it is
 * asked for and three directions are seen. One line of any kind determines roll alone and comes true exactly. Never throws on
 * contradictory input.
 *
 * @returns null when no used line has a usable length
 * Source: residuals and table as in docs/decisions/geometry.md; Levenberg-Marquardt; Caprile, Torre 1990 for the focal length.
 */
export function solveStance(correction: Correction, size: Size): StanceSolution | null {
  const { stance, camera } = correction;
  const problem = problemOf(correction, size);
  if (!problem) return null;
  const { lines } = problem;
  const free = determinedBy(lines, correction);
  const asTaken = cameraAsTaken(correction, size);

  const fixed = solveFixed(problem, free, asTaken);
  const range = speaksOfFocal(correction, problem, free, fixed) ? focalRange(problem, free, fixed) : null;
  const focal = askFocal(correction, problem, range, fixed);
  let best = focal?.solved ?? fixed;
  let unknowns: readonly Unknown[] = focal?.solved ? [...free, 'logFocal'] : free;
  const centre = askCentre(correction, problem, unknowns, best);
  if (centre?.solved) {
    best = centre.solved;
    unknowns = [...unknowns, 'centreX', 'centreY'];
  }
  // one plumb and one level: two answers may exist; used in full only while the tilt and swing are small
  if (free.length === 3 && lines.length === 2) best = faded(problem, best);

  const turnOnly = stance.may === 'turn-only' && !camera.flat;
  const rollOf = (at: SeenCamera): number => middleRoll(correction, problem, at, size);
  const attitude = turnOnly ? { roll: rollOf(best.camera), tilt: 0, swing: 0 } : attitudeOf(best.camera);
  const residuals = offOf(problem, best.camera);
  const spare = residuals.length - unknowns.length;
  const scatter = scatterSq(best.chiSq, residuals.length, unknowns.length);
  const doubts = doubtsOf(problem, {
    unknowns,
    free,
    camera: best.camera,
    scatter,
    focal: focalDoubt(correction, range, best, focal?.solved !== undefined),
    rival: focal?.solved ? null : fixed.rival,
  });
  const reported: readonly Movement[] = turnOnly ? ['roll'] : free;
  const pointing = doubts.filter((d) => d.of === 'pointing');
  const sight = sightOf(problem.facing, best.camera);
  const figure =
    (movement: Movement) =>
    ({ attitude: at }: Sight): number =>
      turnOnly && movement === 'roll' ? rollOf({ ...best.camera, ...at }) : at[movement];
  const of = <T>(value: (movement: Movement) => T): Readonly<Record<Movement, T>> => ({
    roll: value('roll'),
    tilt: value('tilt'),
    swing: value('swing'),
  });
  const sd = of((movement) => {
    const [value, at] = [figure(movement), figure(movement)(sight)];
    if (doubts.length === 0 || !reported.includes(movement) || deviationOf(pointing, value, at) > SD_UNDETERMINED_DEG) return null;
    return deviationOf(doubts, value, at);
  });
  const own = (line: (typeof lines)[number]): number => Math.max(...lineResiduals([line], best.camera, problem.facing).map(Math.abs));
  return {
    attitude,
    seen: attitudeOf(best.camera),
    counted: new Set(lines.map((line) => line.id)),
    determined: reported,
    tells: tellsOf(problem, free, camera.flat),
    spare,
    scatter: Math.sqrt(scatter),
    sd,
    mostlyBy: of((movement) => (sd[movement] === null ? null : mostlyBy(doubts, figure(movement), figure(movement)(sight)))),
    sight,
    doubts,
    // the centre takes the focal length along
    focal: focal?.solved && range ? { found: best.camera.focalPx, sd: range.sd } : (focal?.answer ?? null),
    focalSaid: range && saidOf(correction, problem, range, fixed),
    centre: centre && centre.answer,
    residualPx: new Map(lines.map((line) => [line.id, (own(line) * line.sd) / line.weight])),
    disagreeing: disagreeingOf(correction, size, problem, unknowns, free, best, range),
  };
}

/** What there is to solve; null without a usable line. */
function problemOf(correction: Correction, size: Size): Problem | null {
  const lines = trueLines(correction, size);
  if (lines.length === 0) return null;
  const front = correction.camera.flat ? 'sheet' : correction.stance.front;
  const placed = lines.map((line) => line.sd).sort((p, q) => p - q);
  return {
    lines,
    facing: facingOf(correction),
    steepest: front === 'floor' || front === 'ceiling' ? STEEPEST_FLOOR_DEG : STEEPEST_WALL_DEG,
    diagonalPx: diagonal(size),
    sdPx: placed[placed.length >> 1] as number,
  };
}

/** The camera before anything is solved. */
function cameraAsTaken(correction: Correction, size: Size): SeenCamera {
  const [centreX, centreY] = turnPoint(opticalCentreOf(correction), size, correction.stance.quarterTurns);
  const focalPx = correction.camera.flat ? 1000 * diagonal(size) : focalPxOfCorrection(correction);
  return { roll: 0, tilt: 0, swing: 0, focalPx, centreX, centreY };
}

const attitudeOf = ({ roll, tilt, swing }: SeenCamera): Attitude => ({ roll, tilt, swing });

interface Answer<T> {
  readonly answer: Asked<T>;
  readonly solved?: Solved;
}

/** Whether the lines can say anything of the focal length, and are asked: one that is known is only held against them where they do not fit. */
const speaksOfFocal = ({ camera, stance }: Correction, { lines }: Problem, free: readonly Movement[], { chiSq }: Solved): boolean =>
  !camera.flat &&
  stance.may === 'square-on' &&
  free.length === 3 &&
  directionsSeen(lines) >= 2 &&
  (camera.focalFrom === 'assumed' || camera.focalFrom === 'references' || chiSq > CONTRADICTED_SQ);

/** The focal length, when it is asked for, or merely assumed and the lines clearly prefer another. */
function askFocal({ camera, stance }: Correction, problem: Problem, range: FocalRange | null, fixed: Solved): Answer<number> | null {
  if (camera.flat || (camera.focalFrom !== 'assumed' && camera.focalFrom !== 'references')) return null;
  const no = (why: string): Answer<number> => ({ answer: { found: null, why } });
  if (stance.may !== 'square-on') return no('The focal length is only solved while the lines may bring the front square-on.');
  if (!range) return no('The focal length needs two lines of one kind and two of another, or a panel.');
  const { best, sd, scatter } = range;
  const why = whyUntold(problem, range, camera.centreFrom);
  if (why !== null) return no(why);
  if (camera.focalFrom === 'assumed' && sd > SURE_LOG_FOCAL && fixed.chiSq - best.chiSq < CLEARLY_SQ * scatter)
    return no('These lines fit the assumed focal length too; they do not clearly prefer another.');
  return { answer: { found: best.camera.focalPx, sd }, solved: best };
}

/** Why lines do not tell the focal length although they speak of it; null where they do. */
function whyUntold(problem: Problem, { best, low, high }: FocalRange, centreFrom: Correction['camera']['centreFrom']): string | null {
  if (low === null || high === null || high / low > FLAT_FACTOR || atEnd(problem, best.camera)) return flatSentence(problem.lines);
  // an optical centre that is asked for may explain the rest
  return centreFrom !== 'references' && best.chiSq > explained(problem, PLAUSIBLE_PX)
    ? 'These lines contradict each other, whatever the focal length; it stays as it was. Set the worst aside first.'
    : null;
}

/** Which line would tell where the focal length is flat: along what converges least, near the border. */
function flatSentence(lines: readonly { readonly kind: Reference['kind'] }[]): string {
  const count = (kind: Reference['kind']): number => lines.filter((line) => line.kind === kind).length;
  const missing =
    count('return') === 0 ? 'a return line, or one more line' : count('plumb') < 3 ? 'one more plumb line' : 'one more level line';
  return `These lines converge too little to tell the focal length; it stays as it was. What would tell: ${missing} near the border, along what converges most.`;
}

/** What the lines say of the focal length in use. */
function saidOf({ camera }: Correction, problem: Problem, range: FocalRange, fixed: Solved): FocalSaid | null {
  const { best, low, high, sd, scatter } = range;
  if (low === null && high === null) return null;
  const clearly = camera.focalFrom === 'assumed' || camera.focalFrom === 'references' ? CLEARLY_SQ : CONTRADICTED_SQ;
  return {
    best: best.camera.focalPx,
    low,
    high,
    sd,
    speaksAgainst: fixed.chiSq - best.chiSq > clearly * scatter,
    tells: whyUntold(problem, range, camera.centreFrom) === null,
  };
}

/** What is not known of the focal length that is used: beside the lines, and by what they say. */
function focalDoubt(correction: Correction, range: FocalRange | null, best: Solved, solved: boolean): FocalDoubt {
  if (solved && range) return { offset: 0, sd: range.sd };
  const sd = focalSdLog(correction);
  if (!range || range.low === null || range.high === null || sd === 0) return { offset: 0, sd };
  const [told, said] = [1 / (sd * sd), 1 / (range.sd * range.sd)];
  return { offset: (said * Math.log(range.best.camera.focalPx / best.camera.focalPx)) / (told + said), sd: 1 / Math.sqrt(told + said) };
}

/** The optical centre, when it is asked for and plumb, level and return lines, two of each, are seen. */
function askCentre({ camera }: Correction, problem: Problem, unknowns: readonly Unknown[], from: Solved): Answer<Point> | null {
  if (camera.flat || camera.centreFrom !== 'references') return null;
  const no = (why: string): Answer<Point> => ({ answer: { found: null, why } });
  if (directionsSeen(problem.lines) < 3 || !unknowns.includes('logFocal'))
    return no('The optical centre needs two plumb, two level and two return lines, and the focal length solved with it.');
  const all = [...unknowns, 'centreX', 'centreY'] as const;
  const solved = descend(problem, all, from.camera);
  const residuals = offOf(problem, solved.camera).length;
  const variances = variancesOf(problem, all, solved.camera)?.slice(-2) ?? [Infinity];
  const sd = Math.sqrt(scatterSq(solved.chiSq, residuals, all.length) * Math.max(...variances));
  const { centreX, centreY } = solved.camera;
  const off = Math.hypot(centreX - from.camera.centreX, centreY - from.camera.centreY);
  if (!(sd < SUREST_CENTRE_DIAGONALS * problem.diagonalPx) || off > FARTHEST_CENTRE_DIAGONALS * problem.diagonalPx)
    return no(
      `These lines leave the optical centre unsure ${Number.isFinite(sd) ? `by ${sd.toFixed(0)} px` : 'altogether'}; it stays as it was. What would tell: longer lines of all three kinds, far apart.`,
    );
  return { answer: { found: [centreX, centreY], sd }, solved };
}

/** Tilt and swing of two lines alone, used in full up to 10 degrees together and faded to none at 20; roll solved again. */
function faded(problem: Problem, best: Solved): Solved {
  const { camera } = best;
  const fade = Math.min(1, Math.max(0, (20 - Math.hypot(camera.tilt, camera.swing)) / 10));
  if (fade === 1) return best;
  const held = { ...camera, tilt: camera.tilt * fade, swing: camera.swing * fade };
  const fit = levenbergMarquardt((v) => offOf(problem, { ...held, roll: v[0] as number }), [held.roll], [STEP.roll]);
  return { camera: { ...held, roll: fit.x[0] as number }, chiSq: 2 * fit.cost };
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

/** Of which directions lines tell; one alone only of itself. */
const tellsOf = ({ lines }: Problem, free: readonly Movement[], flat: boolean): StanceSolution['tells'] => ({
  plumb: flat || (free.includes('tilt') && (lines.length > 1 || lines[0]?.kind === 'eye')),
  level: flat || (free.includes('swing') && lines.length > 1),
});

const KINDS = ['plumb', 'level', 'return'] as const;

/**
 * The lines that contradict the others, each judged by what the rest say without it and without those before it; with what would explain
 * each: another kind, another focal length, or nothing.
 */
function disagreeingOf(
  correction: Correction,
  size: Size,
  problem: Problem,
  unknowns: readonly Unknown[],
  free: readonly Movement[],
  best: Solved,
  range: FocalRange | null,
): ReadonlyMap<string, Remedy> {
  const found = new Map<string, Remedy>();
  let [rest, at] = [problem, best];
  while (found.size < MOST_DISAGREEING) {
    const worst = worstDisagreement(rest, unknowns, free, at);
    if (!worst) break;
    found.set(worst.id, found.size === 0 ? remedyFor(correction, size, problem, unknowns, best, range, worst) : { kind: 'aside' });
    rest = { ...rest, lines: rest.lines.filter((line) => line.id !== worst.id) };
    at =
      unknowns.length > free.length ? descend(rest, unknowns, at.camera, { rounds: 2, from: 'start' }) : solveFixed(rest, free, at.camera);
  }
  return found;
}

function remedyFor(
  correction: Correction,
  size: Size,
  problem: Problem,
  unknowns: readonly Unknown[],
  best: Solved,
  range: FocalRange | null,
  { id, restSq }: { readonly id: string; readonly restSq: number },
): Remedy {
  const residuals = offOf(problem, best.camera).length;
  // it explains the line when it leaves hardly more than the line's being left out does
  const explained = restSq + CONTRADICTED_SQ * scatterSq(restSq, residuals - 1, unknowns.length);
  const known = !unknowns.includes('logFocal');
  if (known && range && range.best.chiSq < explained && whyUntold(problem, range, correction.camera.centreFrom) === null)
    return { kind: 'focal', focalPx: range.best.camera.focalPx };
  const reference = correction.references.find((r) => r.id === id);
  const tried = KINDS.filter((kind) => reference && kind !== reference.kind).flatMap((kind) => {
    const references = correction.references.map((r) => (r.id === id ? { ...r, kind } : r));
    const other = problemOf({ ...correction, references }, size);
    return other ? [{ kind, chiSq: descend(other, unknowns, best.camera).chiSq }] : [];
  });
  const likeliest = tried.reduce<(typeof tried)[number] | null>((p, q) => (p && p.chiSq <= q.chiSq ? p : q), null);
  return likeliest && likeliest.chiSq < explained ? { kind: 'kind', to: likeliest.kind } : { kind: 'aside' };
}
