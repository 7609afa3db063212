import type { Correction, LengthUnit, Panel } from '../correction/schema';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import { apply3, multiply3, type Mat3 } from '../linear/mat3';
import { degrees, diagonal, radians, type Point, type Size } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import type { Doubt, Sight } from './sight';
import { focalSdLog } from './focal-doubt';
import { DegeneratePanelError, homographyFromCorners, sortCorners, squareFromCorners } from './homography-from-corners';
import { cornersOfEdges } from './corners-of-edges';
import { rqSplit, type RqSplit } from './rq-split';
import { paperSizeMm } from './paper-formats';
import { PLACED_PX } from './placed';
import { throughLens } from './through-lens';
import { mapQuad, quadOf, type Quad } from '../picture/quad';

/** What a panel says about the stance. */
export interface PanelSolution {
  /** Corners in ideal space (turned), top left first. */
  readonly ideal: Quad;
  /** Width / height, and where it came from. */
  readonly ratio: number;
  readonly ratioFrom: 'typed' | 'computed';
  readonly split: Pick<RqSplit, 'attitude' | 'aspect' | 'shearDeg'>;
  /** Standard deviation of the ratio's logarithm from pointing and from what is not known of the focal length; 0 when typed. */
  readonly ratioSdLog: number;
  /** Where plumb and level things run by it, and what is not known of that: its pointing, and the focal length; none where that says nothing. */
  readonly sight: Sight;
  readonly doubts: readonly Doubt[];
  /**
   * Focal length that the panel itself asks for, px, with the standard deviation of its logarithm by its pointing; null where it
   * cannot say (too square-on).
   */
  readonly focal: { readonly px: number; readonly sdLog: number } | null;
}

/** Lengths that sizes are typed and distances are read in, mm. */
export const MM_OF_UNIT: Readonly<Record<LengthUnit, number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 };

/** Length of one unit of a panel's size, mm; null when the size is a mere ratio. */
export function unitMm({ size }: Panel): number | null {
  if (size && 'paper' in size) return 1;
  return size && 'width' in size && size.unit ? MM_OF_UNIT[size.unit] : null;
}

/** A typed size as it lies in the picture: a paper format takes the orientation that is seen. Null for a ratio and for nothing. */
export function typedSize({ size }: Panel, seenRatio: number): { readonly width: number; readonly height: number } | null {
  if (size && 'paper' in size) return paperSizeMm(size.paper, seenRatio);
  return size && 'width' in size ? size : null;
}

/** Typed width / height of a panel, or null when it is to be computed. */
export function typedRatio(panel: Panel, seenRatio: number): number | null {
  if (panel.size && 'ratio' in panel.size) return panel.size.ratio;
  const typed = typedSize(panel, seenRatio);
  return typed && typed.width / typed.height;
}

/** A panel's corners in ideal space (turned), sorted; null when one has no image through the lens. Edges meet in their crossings. */
export function panelInIdeal(correction: Correction, size: Size, panel: Pick<Panel, 'corners' | 'edges'>): Quad | null {
  const toIdeal = throughLens(correction, size);
  if (panel.edges) {
    const edges = panel.edges.map(([a, b]) => [toIdeal(a), toIdeal(b)] as const);
    return edges.every((edge): edge is readonly [Point, Point] => edge[0] !== null && edge[1] !== null) ? cornersOfEdges(edges) : null;
  }
  const ideal = quadOf(panel.corners?.map(toIdeal) ?? []);
  return ideal && sortCorners(ideal);
}

/**
 * The exact homography of a panel as camera movements: the panel becomes an upright rectangle of its ratio.
 *
 * The ratio is typed, or computed from the lens's geometry: with the focal length known, HK = UQ leaves the unit square's stretch as the
 * ratio. The panel's own focal length follows from its two vanishing points, f^2 = -(v1 - c) . (v2 - c), where tilt and swing both
 * exceed about 3 degrees.
 * @throws DegeneratePanelError
 * @returns null when a corner has no image, or the map is mirrored
 * Source: Zhang, He 2007, Whiteboard scanning and image enhancement; Caprile, Torre 1990.
 */
export function solvePanel(correction: Correction, size: Size, panel: Panel): PanelSolution | null {
  const ideal = panelInIdeal(correction, size, panel);
  if (!ideal) return null;
  if (correction.camera.flat) return flatPanel(panel, ideal);
  const f = focalPxOfCorrection(correction);
  const c = turnPoint(opticalCentreOf(correction), size, correction.stance.quarterTurns);
  const toSquare = squareFromCorners(ideal);
  const onSquare = rqSplit(multiply3(toSquare, pinhole(f, c)));
  if (!onSquare) return null;
  const typed = typedRatio(panel, 1 / onSquare.aspect);
  const ratio = typed ?? 1 / onSquare.aspect;
  const split = splitOf(ideal, ratio, f, c);
  if (!split) return null;
  const placedPx = panel.placedPx ?? PLACED_PX;
  const sd = focalSdLog(correction);
  const sight = sightOfPanel(ideal, typed, f, c) as Sight;
  const moved = movedCorners(ideal, placedPx);
  const doubts = doubtsBy(
    moved.map((pair) => pair.map((quad) => sightOfPanel(quad, typed, f, c))),
    sd === 0 ? null : [sd, -sd].map((by) => sightOfPanel(ideal, typed, f * Math.exp(by), c)),
  );
  const logRatio = (quad: Quad, at: number): number => Math.log(computedRatio(quad, at, c));
  const now = logRatio(ideal, f);
  // how far it goes to the side on which it goes farther; three deviations may do more than three times as much
  const byFocal = Math.max(...[-3, -2, -1, 1, 2, 3].map((k) => Math.abs(logRatio(ideal, f * Math.exp(k * sd)) - now) / Math.abs(k)));
  return {
    ideal,
    ratio,
    ratioFrom: typed === null ? 'computed' : 'typed',
    ratioSdLog:
      typed === null
        ? Math.hypot(
            byPointing(moved, (quad) => logRatio(quad, f), now),
            byFocal,
          )
        : 0,
    split,
    sight,
    doubts,
    focal: focalFromPanel(ideal, c, diagonal(size), onSquare, moved),
  };
}

const splitOf = (ideal: Quad, ratio: number, f: number, c: Point): RqSplit | null =>
  rqSplit(multiply3([ratio, 0, 0, 0, 1, 0, 0, 0, 1], squareFromCorners(ideal), pinhole(f, c)));

/** How a camera stood by a panel: its attitude, and where its upright and its level sides meet. Null where corners are no panel any more. */
function sightOfPanel(ideal: Quad, typed: number | null, f: number, c: Point): Sight | null {
  try {
    const split = splitOf(ideal, typed ?? computedRatio(ideal, f, c), f, c);
    const h = homographyFromCorners(ideal);
    return split && { attitude: split.attitude, plumb: apply3(h, [0, 1, 0]), level: apply3(h, [1, 0, 0]) };
  } catch (error) {
    if (error instanceof DegeneratePanelError) return null;
    throw error;
  }
}

/** Doubts from corners moved either way, and from the focal length; none, nothing being known, where a deviation leaves no panel. */
function doubtsBy(pointing: readonly (readonly (Sight | null)[])[], focal: readonly (Sight | null)[] | null): readonly Doubt[] {
  const doubt = (of: Doubt['of'], [plus, minus]: readonly (Sight | null)[]): Doubt[] => (plus && minus ? [{ of, plus, minus }] : []);
  const doubts = [...pointing.flatMap((pair) => doubt('pointing', pair)), ...(focal ? doubt('focal', focal) : [])];
  return doubts.length < pointing.length + (focal ? 1 : 0) ? [] : doubts;
}

/**
 * A panel on a sheet: no perspective, so it is turned upright by the mean of its four sides, and stretched only where its ratio is typed.
 * What its corners are off a rectangle is pointing, or a crooked print, and stays.
 */
function flatPanel(panel: Panel, ideal: Quad): PanelSolution {
  const { rollDeg, ratio: seen } = uprightOf(ideal);
  const typed = typedRatio(panel, seen);
  const moved = movedCorners(ideal, panel.placedPx ?? PLACED_PX);
  const sight = (quad: Quad): Sight => {
    const { rollDeg: roll } = uprightOf(quad);
    const [sin, cos] = [Math.sin(radians(roll)), Math.cos(radians(roll))];
    return { attitude: { roll, tilt: 0, swing: 0 }, plumb: [sin, cos, 0], level: [cos, -sin, 0] };
  };
  return {
    ideal,
    ratio: typed ?? seen,
    ratioFrom: typed === null ? 'computed' : 'typed',
    ratioSdLog: typed === null ? byPointing(moved, (quad) => Math.log(uprightOf(quad).ratio), Math.log(seen)) : 0,
    split: { attitude: { roll: rollDeg, tilt: 0, swing: 0 }, aspect: (typed ?? seen) / seen, shearDeg: 0 },
    sight: sight(ideal),
    doubts: moved.map(([plus, minus]) => ({ of: 'pointing', plus: sight(plus), minus: sight(minus) })),
    focal: null,
  };
}

/** Roll that turns a quadrilateral upright, and the mean of its widths over that of its heights. */
function uprightOf([a, b, c, d]: Quad): { readonly rollDeg: number; readonly ratio: number } {
  const across: Point = [b[0] - a[0] + c[0] - d[0], b[1] - a[1] + c[1] - d[1]];
  const down: Point = [d[0] - a[0] + c[0] - b[0], d[1] - a[1] + c[1] - b[1]];
  // the way down turned back by a right angle points across too: longer sides say more
  const turned: Point = [across[0] + down[1], across[1] - down[0]];
  return { rollDeg: degrees(Math.atan2(-turned[1], turned[0])), ratio: Math.hypot(...across) / Math.hypot(...down) };
}

const pinhole = (f: number, c: Point): Mat3 => [f, 0, c[0], 0, f, c[1], 0, 0, 1];

/** Width / height of the rectangle behind four ideal corners; NaN where it cannot be told. */
function computedRatio(ideal: Quad, f: number, c: Point): number {
  const split = rqSplit(multiply3(squareFromCorners(ideal), pinhole(f, c)));
  return split ? 1 / split.aspect : NaN;
}

/** Corners moved one coordinate at a time, either way. */
function movedCorners(ideal: Quad, by: number): readonly (readonly [Quad, Quad])[] {
  const moved = (k: number, way: number): Quad =>
    mapQuad(ideal, (p, i): Point => (i === k >> 1 ? (k % 2 === 0 ? [p[0] + way, p[1]] : [p[0], p[1] + way]) : p));
  return Array.from({ length: 8 }, (_, k) => [moved(k, by), moved(k, -by)] as const);
}

/** Standard deviation of a figure of the corners: what each coordinate does to it adds up by squares. */
function byPointing(moved: readonly (readonly [Quad, Quad])[], figure: (quad: Quad) => number, at: number): number {
  const squares = moved.reduce((sum, [p, q]) => sum + Math.max(Math.abs(figure(p) - at), Math.abs(figure(q) - at)) ** 2, 0);
  return Number.isFinite(squares) ? Math.sqrt(squares) : Infinity;
}

const FEWEST_DEGREES = 3;

function focalFromPanel(
  ideal: Quad,
  c: Point,
  diagonalPx: number,
  { attitude }: RqSplit,
  moved: readonly (readonly [Quad, Quad])[],
): PanelSolution['focal'] {
  if (Math.abs(attitude.tilt) < FEWEST_DEGREES || Math.abs(attitude.swing) < FEWEST_DEGREES) return null;
  const px = crossedFocal(ideal, c);
  if (!(px > 0.2 * diagonalPx && px < 10 * diagonalPx)) return null;
  return { px, sdLog: byPointing(moved, (quad) => Math.log(crossedFocal(quad, c)), Math.log(px)) };
}

/** f^2 = -(v1 - c) . (v2 - c) of the quad's two vanishing points; NaN where they are no right angle for any lens. */
function crossedFocal(ideal: Quad, c: Point): number {
  const h = homographyFromCorners(ideal);
  const [across, down] = [apply3(h, [1, 0, 0]), apply3(h, [0, 1, 0])];
  if (Math.abs(across[2]) < 1e-12 || Math.abs(down[2]) < 1e-12) return NaN;
  const dot = (across[0] / across[2] - c[0]) * (down[0] / down[2] - c[0]) + (across[1] / across[2] - c[1]) * (down[1] / down[2] - c[1]);
  return Math.sqrt(-dot);
}
