import type { Correction, Panel, Reference } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { leanDeg, slopeDeg } from '../picture/line-angle';
import { degrees, distance, midpoint, rectCentre, type Point } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { usedAttitude, aimAttitude } from '../stance/stance-homography';
import { solvePanel } from '../stance/panel';
import { verticalLeanDeg } from '../stance/middle-plumb';
import { directionOnPlane, worldDirection } from '../stance/world-direction';
import type { Attitude } from '../stance/attitude';
import { solveStance, type Movement } from '../stance/solve-stance';
import { costOf, type Cost } from '../warp/cost';
import { toPlane } from '../warp/plane-warp';

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
  /** Whether it contradicts the others. */
  readonly disagrees: boolean;
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
  /** Why it cannot be used. */
  readonly trouble: string | null;
}

/** The numbers that are always visible on the bench. */
export interface Readings {
  readonly references: readonly ReferenceReading[];
  readonly panels: readonly PanelReading[];
  /** The used reference that is off most; null without any. */
  readonly worst: ReferenceReading | null;
  /** Lean of the vertical in the middle of the crop under stance and aim, degrees: what is held back on purpose. */
  readonly heldBackDeg: number;
  /** Length-weighted mean of what the used references are off, signed, degrees: how the bob hangs. Null without any. */
  readonly middleOffDeg: number | null;
  readonly attitude: Attitude;
  readonly aim: Attitude;
  readonly sd: Readonly<Record<Movement, number | null>>;
  readonly cost: Cost;
}

/** Angle that a line shows: lean for plumb lines, slope for all others; degrees. */
export const shownAngleDeg = (kind: Reference['kind'], a: Point, b: Point): number => (kind === 'plumb' ? leanDeg(a, b) : slopeDeg(a, b));

/** Everything the readings show for one correction. */
export function readingsOf(correction: Correction, warp: Warp): Readings {
  const attitude = usedAttitude(correction);
  const solution = correction.stance.from === 'references' ? solveStance(correction, warp.pictureSize) : null;
  const references = correction.references.map((reference, index) =>
    readReference(correction, warp, reference, index + 1, solution?.disagreeing.has(reference.id) ?? false),
  );
  const used = references.filter((r) => r.used && r.offDeg !== null);
  const worst = used.reduce<ReferenceReading | null>(
    (most, r) => (most && Math.abs(most.offDeg ?? 0) >= Math.abs(r.offDeg ?? 0) ? most : r),
    null,
  );
  const total = used.reduce((sum, r) => sum + r.lengthPx, 0);
  return {
    references,
    panels: correction.panels.map((panel, index) => readPanel(correction, warp, panel, index + 1)),
    worst,
    middleOffDeg: total > 0 ? used.reduce((sum, r) => sum + (r.offDeg ?? 0) * r.lengthPx, 0) / total : null,
    heldBackDeg: verticalLeanDeg(correction, rectCentre(warp.crop)),
    attitude,
    aim: aimAttitude(correction, attitude),
    sd: solution?.sd ?? { roll: null, tilt: null, swing: null },
    cost: costOf(warp, warp.crop),
  };
}

function readPanel(correction: Correction, warp: Warp, panel: Panel, number: number): PanelReading {
  const common = { id: panel.id, number, used: panel.used };
  try {
    const solved = solvePanel(correction, warp.pictureSize, panel);
    if (solved) return { ...common, ratio: solved.ratio, ratioFrom: solved.ratioFrom, trouble: null };
    return { ...common, ratio: null, ratioFrom: 'computed', trouble: 'This panel has no image through the lens.' };
  } catch (error) {
    return { ...common, ratio: null, ratioFrom: 'computed', trouble: (error as Error).message };
  }
}

function readReference(correction: Correction, warp: Warp, reference: Reference, number: number, disagrees: boolean): ReferenceReading {
  const { kind, used } = reference;
  const turn = (p: Point): Point => turnPoint(p, warp.pictureSize, correction.stance.quarterTurns);
  const beforeDeg = shownAngleDeg(kind, turn(reference.a), turn(reference.b));
  const [a, b] = [toPlane(warp, reference.a), toPlane(warp, reference.b)];
  const lengthPx = distance(reference.a, reference.b);
  if (!a || !b) return { id: reference.id, kind, number, used, beforeDeg, afterDeg: null, offDeg: null, offPx: null, disagrees, lengthPx };
  const afterDeg = shownAngleDeg(kind, a, b);
  const expected = directionOnPlane(correction, warp.stance, worldDirection(kind, reference.statedAngle), midpoint(a, b));
  const offDeg = signedAngleDeg(expected, [b[0] - a[0], b[1] - a[1]]);
  return {
    id: reference.id,
    kind,
    number,
    used,
    beforeDeg,
    afterDeg,
    offDeg,
    offPx: (distance(a, b) / 2) * Math.abs(Math.sin((offDeg * Math.PI) / 180)),
    disagrees,
    lengthPx,
  };
}

/** Angle from one direction to another as lines, anticlockwise as seen positive, degrees in (-90, 90]. */
function signedAngleDeg(from: Point, to: Point): number {
  const cross = from[0] * to[1] - from[1] * to[0];
  const dot = from[0] * to[0] + from[1] * to[1];
  return dot === 0 ? 90 : -degrees(Math.atan(cross / dot));
}
