import type { Correction, Reference } from '../correction/schema';
import type { Vec3 } from '../linear/mat3';
import { diagonal, radians, type Point, type Size } from '../picture/point';
import { DegeneratePanelError } from './homography-from-corners';
import { panelInIdeal } from './panel';
import { worldDirection } from './world-direction';
import { throughLens } from './through-lens';

/** A line of which is known what it is in reality: a reference, or a panel's edge. */
export interface TrueLine {
  /** The reference's id, or the panel's id with the side: `p1:top`. */
  readonly id: string;
  readonly kind: Reference['kind'];
  /** Ends in ideal space (turned), px. */
  readonly a: Point;
  readonly b: Point;
  readonly statedRad: number;
  /** What it is in reality: a unit direction in the front's world axes, the stated angle counted in. */
  readonly direction: Vec3;
  /** By its length: none below 1 % of the diagonal, full above 3 %. */
  readonly weight: number;
  readonly length: number;
}

const SIDES = [
  { side: 'top', kind: 'level', ends: [0, 1] },
  { side: 'right', kind: 'plumb', ends: [1, 2] },
  { side: 'bottom', kind: 'level', ends: [3, 2] },
  { side: 'left', kind: 'plumb', ends: [0, 3] },
] as const;

/**
 * Every line that may decide the stance: used references, and the edges of used panels. Lines too short to say anything, and lines or
 * panels without an image through the lens, are left out.
 */
export function trueLines(correction: Correction, size: Size): TrueLine[] {
  const toIdeal = throughLens(correction, size);
  const diagonalPx = diagonal(size);
  const lines: TrueLine[] = [];
  const add = (id: string, kind: Reference['kind'], a: Point | null, b: Point | null, statedAngle: number): void => {
    if (!a || !b) return;
    const length = Math.hypot(a[0] - b[0], a[1] - b[1]);
    const weight = lengthWeight(length, diagonalPx);
    if (weight > 0)
      lines.push({ id, kind, a, b, statedRad: radians(statedAngle), direction: worldDirection(kind, statedAngle), weight, length });
  };
  for (const { id, kind, a, b, statedAngle, used } of correction.references) {
    if (used) add(id, kind, toIdeal(a), toIdeal(b), statedAngle);
  }
  // a panel that decides is solved exactly, the lines are then only reported
  if (correction.stance.from === 'panel') return lines;
  for (const panel of correction.panels.filter((p) => p.used)) {
    const quad = quadOf(() => panelInIdeal(correction, size, panel));
    if (quad) for (const { side, kind, ends } of SIDES) add(`${panel.id}:${side}`, kind, quad[ends[0]], quad[ends[1]], 0);
  }
  return lines;
}

/** Corners that are no rectangle say nothing; the list of panels says why. */
function quadOf<T>(make: () => T): T | null {
  try {
    return make();
  } catch (error) {
    if (error instanceof DegeneratePanelError) return null;
    throw error;
  }
}

/** Smoothstep by length: none below 1 % of the diagonal, full above 3 %. */
function lengthWeight(length: number, diagonalPx: number): number {
  const t = Math.min(1, Math.max(0, (length / diagonalPx - 0.01) / 0.02));
  return t * t * (3 - 2 * t);
}
