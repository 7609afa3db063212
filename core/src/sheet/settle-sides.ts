import { fitEdges, type SteppedEdge } from '../find/edge-fit';
import type { Point } from '../picture/point';
import { lineThrough, meetingOf, type Line } from './lines';
import type { Raster } from '../raster/raster';
import type { Box } from './parts';
import type { CoarseSide } from './sides-on-level';

/** A print's four sides as they are seen on the scan. */
export interface SettledSides {
  /** Corners where the sides meet, clockwise from the box's first; picture px. */
  readonly corners: Box;
  /** How each side lies, in the box's order. */
  readonly sides: readonly Line[];
  /** Which of them were found on an edge. */
  readonly seen: readonly boolean[];
  /** Direction of its first side, radians clockwise as seen; by all sides that were found. */
  readonly angleRad: number;
  /** Standard deviation of that, radians. */
  readonly sdRad: number;
}

/** Corners are rough: sides are fitted along this part of their length. */
const ALONG = 0.9;
/** A side that leans against the others by more is not believed, radians. */
const MOST_OFF = 0.012;
const LEAST_SD_RAD = 2e-5;
/** Sides of which less was found are supposed. */
const LEAST_SHARE = 0.4;
/** How well a side is placed that was only found on the level, px of it. */
const COARSE_PX = 0.3;

/**
 * The sides of a print, fitted to the edges near them on the full scan by the magnet's fit; one that has no edge with one bright side all
 * along stays as it was found on the level; one that was hardly found there is turned as the others are.
 *
 * @param levels the scan first, then each half the size of the one before
 * @param coarse its sides in the order of the box, picture px
 * @param scale px of the picture on one of the level
 * @param right whether sides are at right angles to each other: not on a photograph
 */
export function settleSides(levels: readonly Raster[], coarse: readonly CoarseSide[], scale: number, right: boolean): SettledSides {
  const rough = cornersOf(coarse);
  const fits = coarse.map((side, i) => {
    const [p, q] = [rough[i] as Point, rough[(i + 1) % 4] as Point];
    const [a, b] = [between(p, q, (1 - ALONG) / 2), between(p, q, (1 + ALONG) / 2)];
    const fit = paperEdge(levels, a, b, 1.5 * scale + 2);
    if (fit) return { ...lineThrough(fit.a, fit.b), sdRad: Math.max(LEAST_SD_RAD, (Math.SQRT2 * fit.sdPx) / length(fit.a, fit.b)) };
    return side.share >= LEAST_SHARE ? { ...side, sdRad: (COARSE_PX * scale) / length(p, q) } : null;
  });
  // as of the first side, whichever way each is walked
  const first = (coarse[0] as CoarseSide).rad;
  const angles = fits.map((fit, i) => fit && { rad: first + folded(fit.rad - (i * Math.PI) / 2 - first), sdRad: fit.sdRad });
  const { rad, sdRad, kept } = right
    ? agreed(angles, first)
    : { rad: angles[0]?.rad ?? first, sdRad: angles[0]?.sdRad ?? 0.01, kept: angles.map((a) => a !== null) };
  const sides = coarse.map((side, i): Line => {
    const fit = fits[i];
    return fit && kept[i] ? fit : { at: side.at, rad: right ? rad + (i * Math.PI) / 2 : side.rad };
  });
  return { corners: cornersOf(sides), sides, seen: kept, angleRad: rad, sdRad };
}

/** Where sides meet: the first corner between the last and the first of them. */
const cornersOf = (sides: readonly Line[]): Box =>
  [0, 1, 2, 3].map((i) => {
    const [before, here] = [sides[(i + 3) % 4] as Line, sides[i] as Line];
    return meetingOf(before, here) ?? here.at;
  }) as unknown as Box;

const between = (p: Point, q: Point, t: number): Point => [p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])];
const length = (p: Point, q: Point): number => Math.hypot(q[0] - p[0], q[1] - p[1]);
/** An angle within a right angle of 0, whichever way its line is walked. */
const folded = (rad: number): number => rad - Math.PI * Math.round(rad / Math.PI);

/**
 * The likeliest edge near a side; where brightness falls there inwards it may be a shadow's, and then the paper's is the one behind it where
 * brightness rises again.
 */
function paperEdge(levels: readonly Raster[], a: Point, b: Point, reachPx: number): SteppedEdge | undefined {
  const first = fitEdges(levels, a, b, reachPx)[0] ?? fitEdges(levels, a, b, 2 * reachPx)[0];
  if (first && first.sign > 0) return first;
  const way = length(a, b);
  const inwards = ([x, y]: Point, by: number): Point => [x - ((b[1] - a[1]) / way) * by, y + ((b[0] - a[0]) / way) * by];
  const [from, to] = [first?.a ?? a, first?.b ?? b];
  const behind = fitEdges(levels, inwards(from, reachPx * BEHIND), inwards(to, reachPx * BEHIND), reachPx);
  return behind.find((fit) => fit.sign > 0 && fit.offPx > -reachPx * BEHIND && fit.contrast >= RISES_BY * (first?.contrast ?? 0)) ?? first;
}

/** How far behind the outer edge of a shadow the paper is sought, as a share of the reach; and how strong its edge has to be. */
const BEHIND = 0.8;
const RISES_BY = 0.3;

/** Sides of paper are at right angles to so much, radians: those that agree better say how it lies. */
const SQUARE_RAD = 6e-4;
const LEAST_KNOWN_RAD = 2e-4;

/** The direction on which most of the sides agree, by how well each is known: one that is off counts the less the further off it is. */
function agreed(
  angles: readonly ({ readonly rad: number; readonly sdRad: number } | null)[],
  otherwise: number,
): { readonly rad: number; readonly sdRad: number; readonly kept: readonly boolean[] } {
  const known = angles.flatMap((a) => (a ? [{ rad: a.rad, weight: 1 / (a.sdRad ** 2 + LEAST_KNOWN_RAD ** 2) }] : []));
  if (known.length === 0) return { rad: otherwise, sdRad: 0.02, kept: angles.map(() => false) };
  const sharing = (rad: number): { readonly rad: number; readonly weight: number } => {
    let [sum, weight] = [0, 0];
    for (const a of known) {
      const w = a.weight / (1 + ((a.rad - rad) / SQUARE_RAD) ** 2);
      sum += w * a.rad;
      weight += w;
    }
    return { rad: sum / weight, weight };
  };
  let best = { rad: otherwise, weight: 0 };
  for (const start of known) {
    let at = sharing(start.rad);
    for (let round = 0; round < 12; round += 1) at = sharing(at.rad);
    if (at.weight > best.weight) best = at;
  }
  const kept = angles.map((a) => a !== null && Math.abs(a.rad - best.rad) <= MOST_OFF);
  const scatter = angles.reduce(
    (sum, a, i) =>
      sum + (a && kept[i] ? Math.min(MOST_OFF, Math.abs(a.rad - best.rad)) ** 2 / (1 + ((a.rad - best.rad) / SQUARE_RAD) ** 2) : 0),
    0,
  );
  const many = kept.filter(Boolean).length;
  return { rad: best.rad, sdRad: Math.max(1 / Math.sqrt(best.weight), Math.sqrt(scatter) / Math.max(1, many)), kept };
}
