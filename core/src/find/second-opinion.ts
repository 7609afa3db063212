import type { Correction } from '../correction/schema';
import { distance, type Point } from '../picture/point';
import { usedAttitude } from '../stance/stance-homography';
import { throughLens } from '../stance/through-lens';
import { cameraOf, offDeg, seenDeg, seenDirection } from './agreeing';
import { NEAR_DEG } from './plumb-direction';
import type { EvidenceLine } from './suggestion';
import type { Witness } from './witnesses';

/** A picture's own plumb edges held against what was set. */
export interface SecondOpinion {
  readonly agree: number;
  readonly against: number;
  /** Within so many degrees, most of those that agree do. */
  readonly withinDeg: number;
  /** By how much those that do not agree are off in the middle, degrees; null where all agree. */
  readonly offDeg: number | null;
  readonly lines: readonly EvidenceLine[];
}

/** Agreeing means within this, or within three deviations of an edge's own, degrees. */
const WITHIN_DEG = 0.1;
const OWN_DEVIATIONS = 3;
/** A drawn line lies on an edge that is no farther off than this, diagonals: that one is no second opinion. */
const SAME_LINE = 0.004;

/**
 * How many other plumb edges of a picture agree with its stance, and which do not. Edges that lines were drawn along do not count: they
 * would agree with themselves.
 *
 * @param witnesses the picture's straight edges, as they were found
 * @returns null where nothing is set, or fewer than three edges have anything to say
 */
export function secondOpinion(correction: Correction, witnesses: readonly Witness[]): SecondOpinion | null {
  const { stance, camera, picture, references } = correction;
  if (camera.flat || stance.front !== 'wall' || (stance.roll === 0 && stance.tilt === 0 && references.length === 0)) return null;
  const seen = { ...cameraOf(correction), ...usedAttitude(correction) };
  const toIdeal = throughLens(correction, picture);
  const plumb = seenDirection(seen, 'plumb');
  const near = SAME_LINE * Math.hypot(picture.width, picture.height);
  const lines: EvidenceLine[] = [];
  const offs: { readonly off: number; readonly agrees: boolean }[] = [];
  for (const witness of witnesses) {
    if (references.some((line) => line.used && liesAlong(witness, line.a, line.b, near))) continue;
    // the lens may have changed since they were found
    const [p, q] = [toIdeal(witness.a), toIdeal(witness.b)];
    if (!p || !q) continue;
    const now = { ...witness, p, q, length: distance(p, q) };
    const off = offDeg(now, seen, plumb);
    const limit = Math.max(WITHIN_DEG, OWN_DEVIATIONS * seenDeg(now));
    if (off > Math.max(NEAR_DEG, limit)) continue;
    offs.push({ off, agrees: off <= limit });
    lines.push({ kind: 'plumb', a: witness.a, b: witness.b, agrees: off <= limit, offDeg: off });
  }
  const sorted = (agrees: boolean): number[] =>
    offs
      .filter((o) => o.agrees === agrees)
      .map((o) => o.off)
      .sort((p, q) => p - q);
  const [agreeing, others] = [sorted(true), sorted(false)];
  if (offs.length < 3) return null;
  return {
    agree: agreeing.length,
    against: others.length,
    withinDeg: Math.max(0.01, agreeing[Math.floor(agreeing.length * 0.9)] ?? WITHIN_DEG),
    offDeg: others[others.length >> 1] ?? null,
    lines,
  };
}

/** Whether an edge lies along a drawn line. */
function liesAlong({ a, b }: Witness, from: Point, to: Point, near: number): boolean {
  const length = distance(from, to);
  if (length === 0) return false;
  const off = (p: Point): number => Math.abs((to[0] - from[0]) * (p[1] - from[1]) - (to[1] - from[1]) * (p[0] - from[0])) / length;
  return off(a) <= near && off(b) <= near;
}

/** A second opinion in a sentence. */
export function secondOpinionInWords({ agree, against, withinDeg, offDeg: off }: SecondOpinion): string {
  const edges = (n: number): string => `${n} other plumb ${n === 1 ? 'edge' : 'edges'}`;
  const yes =
    agree === 0 ? 'no other plumb edge agrees' : `${edges(agree)} ${agree === 1 ? 'agrees' : 'agree'} within ${withinDeg.toFixed(2)}°`;
  const no =
    against === 0
      ? ''
      : `, ${against} ${against === 1 ? 'does' : 'do'} not${off === null ? '' : ` (the middle one is off by ${off.toFixed(1)}°)`}`;
  return `${yes[0]?.toUpperCase()}${yes.slice(1)}${no}.`;
}
