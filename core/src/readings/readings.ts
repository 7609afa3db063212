import type { Correction, Reference } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { leanDeg, slopeDeg } from '../picture/line-angle';
import { degrees, distance, type Point } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { usedAttitude, aimAttitude } from '../stance/stance-homography';
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
  /** How far the result is off what the line should be (stated angle counted in), degrees; null for return lines and without image. */
  readonly offDeg: number | null;
  /** How far its ends are off in the result, px: half its length times the sine of `offDeg`. */
  readonly offPx: number | null;
  /** Length in the picture, px. */
  readonly lengthPx: number;
}

/** The numbers that are always visible on the bench. */
export interface Readings {
  readonly references: readonly ReferenceReading[];
  /** The used reference that is off most; null without any. */
  readonly worst: ReferenceReading | null;
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
  const references = correction.references.map((reference, index) => readReference(correction, warp, reference, index + 1));
  const used = references.filter((r) => r.used && r.offDeg !== null);
  const worst = used.reduce<ReferenceReading | null>(
    (most, r) => (most && Math.abs(most.offDeg ?? 0) >= Math.abs(r.offDeg ?? 0) ? most : r),
    null,
  );
  const total = used.reduce((sum, r) => sum + r.lengthPx, 0);
  const attitude = usedAttitude(correction);
  const solution = correction.stance.from === 'references' ? solveStance(correction, warp.pictureSize) : null;
  return {
    references,
    worst,
    middleOffDeg: total > 0 ? used.reduce((sum, r) => sum + (r.offDeg ?? 0) * r.lengthPx, 0) / total : null,
    attitude,
    aim: aimAttitude(correction, attitude),
    sd: solution?.sd ?? { roll: null, tilt: null, swing: null },
    cost: costOf(warp, warp.crop),
  };
}

function readReference(correction: Correction, warp: Warp, reference: Reference, number: number): ReferenceReading {
  const { kind, used } = reference;
  const turn = (p: Point): Point => turnPoint(p, warp.pictureSize, correction.stance.quarterTurns);
  const beforeDeg = shownAngleDeg(kind, turn(reference.a), turn(reference.b));
  const [a, b] = [toPlane(warp, reference.a), toPlane(warp, reference.b)];
  const lengthPx = distance(reference.a, reference.b);
  if (!a || !b) return { id: reference.id, kind, number, used, beforeDeg, afterDeg: null, offDeg: null, offPx: null, lengthPx };
  const afterDeg = shownAngleDeg(kind, a, b);
  const offDeg = kind === 'return' ? null : halfTurn(afterDeg - reference.statedAngle);
  return {
    id: reference.id,
    kind,
    number,
    used,
    beforeDeg,
    afterDeg,
    offDeg,
    offPx: offDeg === null ? null : (distance(a, b) / 2) * Math.abs(Math.sin((offDeg * Math.PI) / 180)),
    lengthPx,
  };
}

/** An angle between lines, brought into (-90, 90]. */
function halfTurn(deg: number): number {
  const wrapped = degrees(Math.atan(Math.tan((deg * Math.PI) / 180)));
  return wrapped;
}
