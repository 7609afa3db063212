import { withLinesFound, type FoundLine } from '../correction/found-lines';
import { nextReferenceId } from '../correction/reference-ids';
import type { Correction, Reference } from '../correction/schema';
import { keepCropInPlace } from './keep-crop-in-place';
import { kindBySlope } from '../picture/line-angle';
import type { Point } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { solveCorrection } from '../stance/solve-correction';
import { type PlaneWarp, toPicture, toPlane } from '../warp/plane-warp';

/** How well a reference lies where it lies: what the edge fit or the zoom says. */
export type Placed = Pick<Reference, 'placedPx' | 'bowPx'>;

/** Where a line lies, and how well. */
export type PlacedLine = Pick<Reference, 'a' | 'b'> & Placed;

/** A hand places a point this well, screen px (a matter of judgement). */
const HAND_SCREEN_PX = 0.6;

/** How well a hand placed something: deviation of an end in picture px; no bow is known. */
export interface PlacedByHand {
  readonly placedPx: number;
  readonly bowPx: undefined;
}

/** How well a hand places at a scale, screen px for one picture px: no edge is known there, nor its bow. */
export const placedByHand = (scale: number): PlacedByHand => ({
  placedPx: Math.min(1000, Math.max(0.01, HAND_SCREEN_PX / scale)),
  bowPx: undefined,
});

/** A reference between two picture points, its kind by its slope in the turned picture. */
export function newReference(correction: Correction, a: Point, b: Point, placed: Placed = {}): Reference {
  const turn = (p: Point): Point => turnPoint(p, correction.picture, correction.stance.quarterTurns);
  return {
    id: nextReferenceId(correction.references),
    kind: kindBySlope(turn(a), turn(b)),
    a: [...a],
    b: [...b],
    statedAngle: 0,
    used: true,
    ...placed,
  };
}

/** The document with other references, solved anew; a crop by hand stays over the same picture point. */
export function withReferences(correction: Correction, references: readonly Reference[]): Correction {
  const solved = solveCorrection({ ...correction, references: [...references] }, correction.picture).correction;
  return keepCropInPlace(correction, solved);
}

/** The document with found lines as its references, solved; what a hand drew is set aside, a crop by hand stays over the same picture point. */
export const withFoundLines = (
  correction: Correction,
  found: readonly FoundLine[],
  may: Correction['stance']['may'],
  flat: boolean,
): Correction => keepCropInPlace(correction, solveCorrection(withLinesFound(correction, found, may, flat), correction.picture).correction);

/** The document with one reference changed. */
export const withReference = (correction: Correction, id: string, change: Partial<Reference>): Correction =>
  withReferences(
    correction,
    correction.references.map((r) => (r.id === id ? { ...r, ...change } : r)),
  );

/** A point moved by a way on the plane, px; null without an image there. */
export function movedPoint(warp: PlaneWarp, p: Point, by: Point): [number, number] | null {
  const at = toPlane(warp, p);
  const next = at && toPicture(warp, [at[0] + by[0], at[1] + by[1]]);
  return next && [next[0], next[1]];
}

/** The line moved on the stage: both ends by the same way on the plane, or one end to a plane point; null without an image there. */
export function movedReference<T extends Pick<Reference, 'a' | 'b'>>(
  warp: PlaneWarp,
  line: T,
  which: 'a' | 'b' | 'both',
  by: Point,
): T | null {
  const a = which === 'b' ? line.a : movedPoint(warp, line.a, by);
  const b = which === 'a' ? line.b : movedPoint(warp, line.b, by);
  return a && b ? { ...line, a, b } : null;
}

/** Half a pixel is all that a picture's border may be off by. */
const BORDER_PX = 0.5;

/** A side of the picture as a reference: its two corners. */
export function borderReference(correction: Correction, side: 'top' | 'right' | 'bottom' | 'left'): Reference {
  const { width, height } = correction.picture;
  const ends: Readonly<Record<typeof side, readonly [Point, Point]>> = {
    top: [
      [0, 0],
      [width, 0],
    ],
    right: [
      [width, 0],
      [width, height],
    ],
    bottom: [
      [0, height],
      [width, height],
    ],
    left: [
      [0, 0],
      [0, height],
    ],
  };
  // the border is where it is: only what it stands for is in doubt
  return newReference(correction, ...ends[side], { placedPx: BORDER_PX });
}
