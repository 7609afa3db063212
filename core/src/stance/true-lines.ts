import type { Correction, Reference } from '../correction/schema';
import type { Vec3 } from '../linear/mat3';
import { diagonal, radians, type Point, type Size } from '../picture/point';
import { DegeneratePanelError } from './homography-from-corners';
import { panelInIdeal } from './panel';
import { deviationPx } from './placed';
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
  /** Standard deviation of an end across the line, px: how well it was placed, and what an edge with a bow says less. */
  readonly sd: number;
  /** How far the edge departs from straight in the middle, ideal px. */
  readonly bow: number;
}

const SIDES = [
  { side: 'top', kind: 'level', ends: [0, 1] },
  { side: 'right', kind: 'plumb', ends: [1, 2] },
  { side: 'bottom', kind: 'level', ends: [3, 2] },
  { side: 'left', kind: 'plumb', ends: [0, 3] },
] as const;

/** Whether a reference takes part: in use, and said what it is. */
export const isCounted = ({ used, waits }: Pick<Reference, 'used' | 'waits'>): boolean => used && waits !== true;

/**
 * Every line that may decide the stance: used references, and the edges of used panels. Lines too short to say anything, and lines or
 * panels without an image through the lens, are left out; so are those that have no say in what the lines may do.
 */
export function trueLines(correction: Correction, size: Size): TrueLine[] {
  const toIdeal = throughLens(correction, size);
  const diagonalPx = diagonal(size);
  const lines: TrueLine[] = [];
  const add = (
    id: string,
    kind: Reference['kind'],
    a: Point | null,
    b: Point | null,
    stated: number,
    placed: number | undefined,
    bow: number,
  ): void => {
    if (!a || !b) return;
    const length = Math.hypot(a[0] - b[0], a[1] - b[1]);
    const weight = lengthWeight(length, diagonalPx);
    if (weight > 0) {
      const sd = deviationPx(placed, bow);
      lines.push({ id, kind, a, b, statedRad: radians(stated), direction: worldDirection(kind, stated), weight, length, sd, bow });
    }
  };
  for (const reference of correction.references) {
    const { id, kind, a, b, statedAngle, placedPx } = reference;
    if (isCounted(reference)) add(id, kind, toIdeal(a), toIdeal(b), statedAngle, placedPx, Math.abs(idealBow(reference, toIdeal)));
  }
  // a panel that decides is solved exactly, the lines are then only reported
  if (correction.stance.from !== 'panel') {
    for (const panel of correction.panels.filter((p) => p.used)) {
      const quad = quadOf(() => panelInIdeal(correction, size, panel));
      if (!quad) continue;
      for (const { side, kind, ends } of SIDES) add(`${panel.id}:${side}`, kind, quad[ends[0]], quad[ends[1]], 0, panel.placedPx, 0);
    }
  }
  return lines.filter(({ kind }) => hasSay(correction, lines, kind));
}

/**
 * Whether lines of a kind decide: where the picture may only be turned, or stood plumb, plumb and eye lines do; the others only where
 * there is none of them.
 */
export function hasSay({ stance, camera }: Correction, lines: readonly Pick<TrueLine, 'kind'>[], kind: Reference['kind']): boolean {
  if (stance.may === 'square-on' || camera.flat) return true;
  const upright = (k: Reference['kind']): boolean => k === 'plumb' || k === 'eye';
  return upright(kind) || !lines.some((line) => upright(line.kind));
}

/** What is left of a reference's bow once the lens is taken out, ideal px. */
function idealBow({ a, b, bowPx }: Reference, toIdeal: (p: Point) => Point | null): number {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (!bowPx || length === 0) return 0;
  const [nx, ny] = [-(b[1] - a[1]) / length, (b[0] - a[0]) / length];
  const [p, m, q] = [a, [(a[0] + b[0]) / 2 + nx * bowPx, (a[1] + b[1]) / 2 + ny * bowPx] as const, b].map((at) => toIdeal(at as Point));
  if (!p || !m || !q) return bowPx;
  const chord = Math.hypot(q[0] - p[0], q[1] - p[1]);
  return ((q[0] - p[0]) * (m[1] - p[1]) - (q[1] - p[1]) * (m[0] - p[0])) / chord;
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
