import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import type { Correction } from '../correction/schema';
import { apply3, IDENTITY3, type Vec3 } from '../linear/mat3';
import { degrees, radians } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import type { SeenCamera } from '../stance/line-residuals';
import { descend, type Problem, type Unknown } from '../stance/problem';
import type { TrueLine } from '../stance/true-lines';
import { worldDirection, worldToCamera } from '../stance/world-direction';
import type { Witness } from './witnesses';

/** What an edge is taken for. */
export const KINDS = ['plumb', 'level', 'return'] as const;
export type Kind = (typeof KINDS)[number];

/** An edge and what it is taken for. */
export interface Taken {
  readonly witness: Witness;
  readonly kind: Kind;
}

/** Built things are true to about this, degrees: one deviation of a single edge beside how well it is seen (a matter of judgement). */
export const BUILT_DEG = 0.02;

/** The longest edges of some. */
export const longest = (taken: readonly Taken[], most: number): readonly Taken[] =>
  taken.length <= most ? taken : [...taken].sort((p, q) => q.witness.length - p.witness.length).slice(0, most);

/** An edge agrees when it is off by no more than this, or than three deviations of its own, degrees. */
export const AGREES_DEG = 0.3;
const OWN_DEVIATIONS = 3;

/** Deviation of an edge's own direction by how well it is seen, degrees. */
export const seenDeg = ({ sdPx, length }: Pick<Witness, 'sdPx' | 'length'>): number => degrees((Math.SQRT2 * sdPx) / length);

/** Within how many degrees an edge has to point to agree. */
export const toleranceOf = (witness: Witness, least = AGREES_DEG): number => Math.max(least, OWN_DEVIATIONS * seenDeg(witness));

/** The direction of a kind in camera axes. */
export const seenDirection = (camera: SeenCamera, kind: Kind): Vec3 => apply3(worldToCamera(IDENTITY3, camera), worldDirection(kind));

/** By how many degrees an edge points past where its kind's lines meet, never negative. */
export function offDeg({ p, q, length }: Witness, { focalPx, centreX, centreY }: SeenCamera, [dx, dy, dz]: Vec3): number {
  const vx = focalPx * dx + (centreX - (p[0] + q[0]) / 2) * dz;
  const vy = focalPx * dy + (centreY - (p[1] + q[1]) / 2) * dz;
  const size = Math.sqrt(vx * vx + vy * vy) * length;
  if (size < 1e-12) return 0;
  const sine = Math.abs(vx * (q[1] - p[1]) - vy * (q[0] - p[0])) / size;
  return degrees(Math.asin(Math.min(1, sine)));
}

/** How well an end of an edge is placed, px: as it is seen, and as true as what is built. */
export const placedPx = ({ sdPx, length }: Witness): number => Math.hypot(sdPx, endPx(BUILT_DEG, length));

/** By how much the ends of a line are off across it where its direction is off by so many degrees, px. */
export const endPx = (deg: number, length: number): number => (radians(deg) * length) / Math.SQRT2;

/** An edge as the solver takes it. */
export function lineOf({ witness, kind }: Taken, id: string, weight = 1): TrueLine {
  const { p, q, length } = witness;
  return {
    id,
    kind,
    a: p,
    b: q,
    statedRad: 0,
    direction: worldDirection(kind),
    weight,
    length,
    sd: placedPx(witness),
    bow: 0,
  };
}

/** No limit to where the search looks. */
const STEEPEST_DEG = 120;

/** Lines as the solver takes them. */
export const problemOf = (lines: readonly TrueLine[], diagonalPx: number): Problem => ({
  lines,
  facing: IDENTITY3,
  steepest: STEEPEST_DEG,
  diagonalPx,
  sdPx: 1,
});

/** A camera as the search moves it, before anything is known of how it stood. */
export function cameraOf(correction: Correction): SeenCamera {
  const [centreX, centreY] = turnPoint(opticalCentreOf(correction), correction.picture, correction.stance.quarterTurns);
  return { roll: 0, tilt: 0, swing: 0, focalPx: focalPxOfCorrection(correction), centreX, centreY };
}

/** Limits beyond which an edge has no say, degrees, from round to round: it is let go of gently. */
const LIMITS: readonly number[] = [1, 0.7, 0.5, 0.4, AGREES_DEG, AGREES_DEG];

/**
 * A camera refined by edges, those that do not agree losing their say: a redescending loss, one degree wide at first and then narrower.
 * Source: Beaton, Tukey 1974, the biweight, from memory.
 */
export function refine(
  taken: readonly Taken[],
  start: SeenCamera,
  unknowns: readonly Unknown[],
  diagonalPx: number,
  limits = LIMITS,
): SeenCamera {
  let camera = start;
  for (const limit of limits) {
    const directions = KINDS.map((kind) => seenDirection(camera, kind));
    const lines = taken.flatMap((edge, i) => {
      const share = offDeg(edge.witness, camera, directions[KINDS.indexOf(edge.kind)] as Vec3) / (1.5 * toleranceOf(edge.witness, limit));
      return share < 1 ? [lineOf(edge, String(i), 1 - share * share)] : [];
    });
    if (lines.length < unknowns.length) return camera;
    camera = descend(problemOf(lines, diagonalPx), unknowns, camera, { rounds: 1, from: 'start', searching: true }).camera;
  }
  return camera;
}

/** Edges that agree with a camera, and those that nearly do and speak against it. */
export function heldAgainst(
  witnesses: readonly Witness[],
  camera: SeenCamera,
  kind: Kind,
  nearDeg: number,
): { readonly agree: readonly Witness[]; readonly against: readonly Witness[] } {
  const direction = seenDirection(camera, kind);
  const agree: Witness[] = [];
  const against: Witness[] = [];
  for (const witness of witnesses) {
    const off = offDeg(witness, camera, direction);
    if (off <= toleranceOf(witness)) agree.push(witness);
    else if (off <= nearDeg) against.push(witness);
  }
  return { agree, against };
}
