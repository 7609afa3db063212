import type { Correction, Panel, Reference } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { bowOf } from '../lens/bow';
import { noLens } from '../lens/none';
import { leanDeg, slopeDeg } from '../picture/line-angle';
import { degrees, diagonal, distance, midpoint, rectCentre, type Point } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { moves } from '../ease/ease-map';
import { filledShare } from '../fill/empty-parts';
import { bendsOf, type Bends } from './bends';
import { ringReadings, type RingReading } from './ring';
import { measureReadings, type MeasureReading } from './measures';
import { usedAttitude, aimAttitude } from '../stance/stance-homography';
import { solvePanel, type PanelSolution } from '../stance/panel';
import { deviationPx } from '../stance/placed';
import { deviationOf, mostlyBy, type DoubtOf, type Sight } from '../stance/sight';
import { solveCorrection } from '../stance/solve-correction';
import { FRAME_DIAGONAL_MM } from '../correction/new-correction';
import { directionOnPlane, worldDirection } from '../stance/world-direction';
import { verticalLeanDeg } from '../warp/shown-direction';
import type { Attitude } from '../stance/attitude';
import type { Movement } from '../stance/determined-by';
import { judgedAttitude } from '../stance/judged-attitude';
import { solveStance, type Asked, type FocalSaid, type Remedy, type StanceSolution } from '../stance/solve-stance';
import { costOf, type Cost } from '../warp/cost';
import { toFlat, toPlane, uneased } from '../warp/plane-warp';
import { verdictOf, type Verdict } from './verdict';

/** One reference as the list shows it. */
export interface ReferenceReading {
  readonly id: string;
  readonly kind: Reference['kind'];
  /** Counted from 1 in the order of the document. */
  readonly number: number;
  readonly used: boolean;
  /** Lean (plumb) or slope (others) in the picture as turned, degrees, positive anticlockwise as seen. */
  readonly beforeDeg: number;
  /** The same in the result; null where an end has no image. */
  readonly afterDeg: number | null;
  /** How far the result is off what the line should be under the aim (stated angle counted in), degrees; null without image. */
  readonly offDeg: number | null;
  /** How far its ends are off in the result, px: half its length times the sine of `offDeg`. */
  readonly offPx: number | null;
  /** Whether it decides, or is judged by: in use, told what it is, and with a say in what the lines may do. */
  readonly counts: boolean;
  /** Whether it waits to be told what it is. */
  readonly waits: boolean;
  /** Whether it contradicts the others, and what would explain it. */
  readonly disagrees: boolean;
  readonly remedy: Remedy | null;
  /** How well its ends were placed, picture px. */
  readonly placedPx: number;
  /** Length in the picture, px. */
  readonly lengthPx: number;
}

/** One panel as the list shows it. */
export interface PanelReading {
  readonly id: string;
  readonly number: number;
  readonly used: boolean;
  /** Width / height as seen; null while the corners are no rectangle. */
  readonly ratio: number | null;
  readonly ratioFrom: 'typed' | 'computed';
  /** Standard deviation of the ratio, same unit; 0 when typed. */
  readonly ratioSd: number;
  /** Why it cannot be used. */
  readonly trouble: string | null;
}

/** One traced edge as the list shows it. */
export interface EdgeReading {
  readonly id: string;
  readonly number: number;
  /** Bow in the picture, and in the result as the lens is set, px; null where a bead has no image. */
  readonly beforePx: number;
  readonly afterPx: number | null;
}

/** The numbers that are always visible on the bench. */
export interface Readings {
  readonly references: readonly ReferenceReading[];
  readonly panels: readonly PanelReading[];
  readonly measures: readonly MeasureReading[];
  readonly edges: readonly EdgeReading[];
  /** How true the result is, as far as that is known. */
  readonly verdict: Verdict;
  /** The line of the verdict: the one that contradicts the others, else the counted one that is off most; null without any. */
  readonly worst: ReferenceReading | null;
  /** Lean of the vertical in the middle of the crop under stance and aim, degrees: what is held back on purpose. */
  readonly heldBackDeg: number;
  /** Whether the middle was stood plumb once and has come off it by more than 0.1 degrees since. */
  readonly middleLost: boolean;
  /** Greatest angle in the result between two lines that are parallel in reality, plumb or level, kept on purpose or not; degrees; null without two. */
  readonly convergenceDeg: number | null;
  /** Where the crop's middle lies off the aim's axis, mm of a 36 x 24 mm frame: above and to the right positive; null when flat. */
  readonly rise: number | null;
  readonly cross: number | null;
  /** What became of a focal length and an optical centre that were asked of the lines. */
  readonly focal: Asked<number> | null;
  readonly centre: Asked<Point> | null;
  /** What the lines say of the focal length, taken or not. */
  readonly focalSaid: FocalSaid | null;
  /** Length-weighted mean of what the used references are off, signed, degrees: how the bob hangs. Null without any. */
  readonly middleOffDeg: number | null;
  readonly attitude: Attitude;
  readonly aim: Attitude;
  /** Shape rings, and what easing bends; null where nothing is eased. */
  readonly rings: readonly RingReading[];
  readonly bends: Bends | null;
  /** What shims do: how many move something, and the greatest and least local area, result over source; null without. */
  readonly shims: { readonly count: number; readonly largestArea: number; readonly smallestArea: number } | null;
  /** Share of the crop that is filled, 0..1. */
  readonly filled: number;
  /** Standard deviations of the attitude with everything that is not known counted in, degrees; null where nothing tells. */
  readonly sd: Readonly<Record<Movement, number | null>>;
  /** What makes up most of each. */
  readonly mostlyBy: Readonly<Record<Movement, DoubtOf | null>>;
  readonly cost: Cost;
}

/** Angle that a line shows: lean for plumb lines, slope for all others; degrees. */
export const shownAngleDeg = (kind: Reference['kind'], a: Point, b: Point): number => (kind === 'plumb' ? leanDeg(a, b) : slopeDeg(a, b));

/** A middle that was stood plumb is lost beyond this, degrees (the eye sees a tenth; common practice, no published source). */
const MIDDLE_LOST_DEG = 0.1;

function shimReading({ shimmed }: Warp): Readings['shims'] {
  const shims = (shimmed?.shims ?? []).filter(({ shim }) => moves(shim));
  if (shims.length === 0) return null;
  return {
    count: shims.length,
    largestArea: Math.max(...shims.map(({ largestArea }) => largestArea)),
    smallestArea: Math.min(...shims.map(({ smallestArea }) => smallestArea)),
  };
}

/** Everything the readings show for one correction. */
export function readingsOf(correction: Correction, warp: Warp): Readings {
  const { stance, camera } = correction;
  const attitude = usedAttitude(correction);
  const solved = stance.from === 'panel' ? solveCorrection(correction, warp.pictureSize) : null;
  const solution = solved ? solved.solution : solveStance(correction, warp.pictureSize);
  const judged = judgedAttitude(correction, warp.pictureSize, solution);
  const disagreeing = stance.from === 'references' ? solution?.disagreeing : undefined;
  const references = correction.references.map((reference, index) =>
    readReference(correction, warp, reference, index + 1, judged, {
      counts: solution?.counted.has(reference.id) ?? false,
      remedy: disagreeing?.get(reference.id) ?? null,
    }),
  );
  const used = references.filter((r) => r.counts && r.offDeg !== null);
  const verdict = verdictOf({ correction, warp, lines: references, solution, panel: solved?.panel ?? null, judged });
  const worst = references.find((r) => r.id === verdict.line?.id) ?? null;
  const total = used.reduce((sum, r) => sum + r.lengthPx, 0);
  const middle = rectCentre(warp.crop);
  const heldBackDeg = verticalLeanDeg(correction, warp, middle, judged);
  const stoodPlumb =
    !stance.keepMiddle && (stance.aim.roll !== 0 || (stance.may === 'turn-only' && stance.from === 'references' && used.length > 1));
  const { axis, scale } = warp.stance;
  const flatMiddle = uneased(warp, middle) ?? middle;
  const mmPerPx = FRAME_DIAGONAL_MM / diagonal(warp.pictureSize) / scale;
  const sure = sureOf(solved?.panel ?? null, stance.from === 'references' ? solution : null);
  let bends: Bends | null | undefined;
  return {
    references,
    panels: correction.panels.map((panel, index) => readPanel(correction, warp, panel, index + 1)),
    measures: measureReadings(correction, warp),
    edges: edgeReadings(correction, warp),
    verdict,
    worst,
    middleOffDeg: total > 0 ? used.reduce((sum, r) => sum + (r.offDeg ?? 0) * r.lengthPx, 0) / total : null,
    heldBackDeg,
    middleLost: stoodPlumb && Math.abs(heldBackDeg) > MIDDLE_LOST_DEG,
    convergenceDeg: convergenceOf(references.filter((r) => r.used && !r.waits)),
    rise: camera.flat ? null : (axis[1] - flatMiddle[1]) * mmPerPx,
    cross: camera.flat ? null : (flatMiddle[0] - axis[0]) * mmPerPx,
    rings: ringReadings(correction, warp),
    // seen at two steps only, and takes as long as all else
    get bends() {
      return (bends ??= bendsOf(warp, warp.crop));
    },
    shims: shimReading(warp),
    filled: filledShare(correction, warp),
    focal: solved?.focal ?? solution?.focal ?? null,
    focalSaid: solution?.focalSaid ?? null,
    centre: solution?.centre ?? null,
    attitude,
    aim: aimAttitude(correction, attitude),
    sd: sure.sd,
    mostlyBy: sure.mostlyBy,
    cost: costOf(warp, warp.crop),
  };
}

/** Bow of every traced edge before and after the lens, px. */
function edgeReadings({ lens }: Correction, warp: Warp): EdgeReading[] {
  const bare = noLens(warp.pictureSize);
  return lens.edges.map(({ id, points }, index) => ({
    id,
    number: index + 1,
    beforePx: bowOf(bare, points) ?? 0,
    afterPx: bowOf(warp.lens, points),
  }));
}

/** Greatest spread of what plumb lines, or level ones, show in the result, degrees. */
function convergenceOf(lines: readonly ReferenceReading[]): number | null {
  const spreads = (['plumb', 'level'] as const).flatMap((kind) => {
    const after = lines.flatMap((r) => (r.kind === kind && r.afterDeg !== null ? [r.afterDeg] : []));
    return after.length >= 2 ? [Math.max(...after) - Math.min(...after)] : [];
  });
  return spreads.length > 0 ? Math.max(...spreads) : null;
}

/** How sure the attitude is: by the panel that decides, or by the lines. */
function sureOf(panel: PanelSolution | null, solution: StanceSolution | null): Pick<Readings, 'sd' | 'mostlyBy'> {
  if (solution && !panel) return solution;
  const of = <T>(value: (movement: Movement) => T): Readonly<Record<Movement, T>> => ({
    roll: value('roll'),
    tilt: value('tilt'),
    swing: value('swing'),
  });
  if (!panel || panel.doubts.length === 0) return { sd: of(() => null), mostlyBy: of(() => null) };
  const figure =
    (movement: Movement) =>
    (sight: Sight): number =>
      sight.attitude[movement];
  const sd = of((movement) => deviationOf(panel.doubts, figure(movement), panel.sight.attitude[movement]));
  return {
    sd: of((movement) => (sd[movement] < SD_UNKNOWN_DEG ? sd[movement] : null)),
    mostlyBy: of((movement) => mostlyBy(panel.doubts, figure(movement), panel.sight.attitude[movement])),
  };
}

/** A deviation beyond this says that nothing is known, degrees. */
const SD_UNKNOWN_DEG = 20;

function readPanel(correction: Correction, warp: Warp, panel: Panel, number: number): PanelReading {
  const common = { id: panel.id, number, used: panel.used, ratioSd: 0 };
  try {
    const solved = solvePanel(correction, warp.pictureSize, panel);
    if (solved) {
      const { ratio, ratioFrom, ratioSdLog } = solved;
      return { ...common, ratio, ratioFrom, ratioSd: ratio * ratioSdLog, trouble: null };
    }
    return { ...common, ratio: null, ratioFrom: 'computed', trouble: 'This panel has no image through the lens.' };
  } catch (error) {
    return { ...common, ratio: null, ratioFrom: 'computed', trouble: (error as Error).message };
  }
}

function readReference(
  correction: Correction,
  warp: Warp,
  reference: Reference,
  number: number,
  judged: Attitude,
  { counts, remedy }: Pick<ReferenceReading, 'counts' | 'remedy'>,
): ReferenceReading {
  const { kind, used } = reference;
  const waits = reference.waits === true;
  const placedPx = deviationPx(reference.placedPx, reference.bowPx);
  const turn = (p: Point): Point => turnPoint(p, warp.pictureSize, correction.stance.quarterTurns);
  const beforeDeg = shownAngleDeg(kind, turn(reference.a), turn(reference.b));
  const [a, b] = [toPlane(warp, reference.a), toPlane(warp, reference.b)];
  const lengthPx = distance(reference.a, reference.b);
  const common = { id: reference.id, kind, number, used, counts, waits, disagrees: remedy !== null, remedy, beforeDeg, lengthPx, placedPx };
  if (!a || !b) return { ...common, afterDeg: null, offDeg: null, offPx: null };
  // a line that has no say is shown with what it reads, and nobody claims to know what it should
  if (used && !counts) return { ...common, afterDeg: shownAngleDeg(kind, a, b), offDeg: null, offPx: null };
  const afterDeg = shownAngleDeg(kind, a, b);
  // judged before easing, which bends true lines too and says so itself
  const [p, q] = [toFlat(warp, reference.a) ?? a, toFlat(warp, reference.b) ?? b];
  const expected = directionOnPlane(correction, warp.stance, worldDirection(kind, reference.statedAngle), midpoint(p, q), judged);
  const offDeg = signedAngleDeg(expected, [q[0] - p[0], q[1] - p[1]]);
  return { ...common, afterDeg, offDeg, offPx: (distance(p, q) / 2) * Math.abs(Math.sin((offDeg * Math.PI) / 180)) };
}

/** Angle from one direction to another as lines, anticlockwise as seen positive, degrees in (-90, 90]. */
function signedAngleDeg(from: Point, to: Point): number {
  const cross = from[0] * to[1] - from[1] * to[0];
  const dot = from[0] * to[0] + from[1] * to[1];
  return dot === 0 ? 90 : -degrees(Math.atan(cross / dot));
}
