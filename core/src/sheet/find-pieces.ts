import type { Piece } from '../correction/schema';
import { degrees, type Point } from '../picture/point';
import { levelsOf, type Raster } from '../raster/raster';
import { lidOf, planesOf } from './lid';
import { boxArea, closed, opened, partsOf, sideOf, boxOf, type Box, type Part } from './parts';
import { joined, partTouching } from './part-touching';
import { innerEdge } from './inner-edge';
import { faintSide, type Rest } from './faint-side';
import { settleSides, type SettledSides } from './settle-sides';
import { sidesOnLevel, type CoarseSide } from './sides-on-level';

/** A print found on a sheet. */
export interface FoundPiece {
  /** Top left, top right, bottom right, bottom left as it lies (nearest to upright); picture px. */
  readonly corners: Piece['corners'];
  /** Those of what it shows, where a border with an inner edge is seen around that. */
  readonly inner: Piece['corners'] | null;
  /** The roll that sets it straight, degrees; positive anticlockwise as seen, as everywhere. */
  readonly angleDeg: number;
  /**
   * Standard deviation of that, degrees; with caution: sides of real paper are less square than those it was measured on, where errors
   * are half of it (root mean square) and 2 % lie beyond two.
   */
  readonly sdDeg: number;
  /** `seen`: all sides lie on edges; `partly`: some had to be supposed; `touches`: may be several that could not be parted. */
  readonly how: 'seen' | 'partly' | 'touches';
}

/** What is on a sheet. */
export interface FoundSheet {
  readonly pieces: readonly FoundPiece[];
  /** Why there is none. */
  readonly silent: string | null;
}

/** The longer side of the level on which prints are sought, px at most. */
const SOUGHT_PX = 1600;
/** What is off the lid by so many deviations of it, or by so much of full brightness, is something else. */
const DEVIATIONS = 5;
const LEAST_OFF = 0.018;
/** Gaps up to this are closed, px of the level. */
const CLOSED_PX = 2;
/** What is thinner than twice this is a thread or dust, px of the level. */
const THIN_PX = 2;
/** Fewer pixels are dust. */
const FEWEST = 12;
/** Prints are at least this long and wide: mm where the scan says how large it is, else a share of its longer side. */
const LEAST_MM = 14;
const LEAST_SHARE = 0.045;
/** Most of the frame is lid. */
const LEAST_LID = 0.5;
/** One outline that takes this much of the scan is the scan itself. */
const WHOLE = 0.97;
/** Sides of which so much is seen are one print's, whatever lies between them. */
const WELL_SEEN = 0.7;

/**
 * The prints on a scan, by what is not its lid.
 *
 * @param picture the scan, right way up
 * @param ppi its pixels an inch; null where that is not known
 * @param photographed whether it was taken by a camera: sides then need not be at right angles
 */
export function findPieces(picture: Raster, ppi: number | null, photographed = false): FoundSheet {
  const levels = levelsOf(picture, SOUGHT_PX);
  const level = levels.at(-1) as Raster;
  const scale = picture.width / level.width;
  if (Math.min(level.width, level.height) < 64) return { pieces: [], silent: 'It is too small to tell prints from a lid.' };
  const planes = planesOf(level);
  const lid = lidOf(planes);
  if (lid.share < LEAST_LID) return { pieces: [], silent: 'No lid shows along its border: it looks like one picture.' };
  const limit = Math.max(LEAST_OFF, DEVIATIONS * lid.grain);
  const on = new Uint8Array(lid.off.length);
  for (let k = 0; k < on.length; k += 1) on[k] = (lid.off[k] as number) > limit ? 1 : 0;
  const mask = opened(closed({ width: level.width, height: level.height, on }, CLOSED_PX), THIN_PX);
  const { parts, map } = partsOf(mask, FEWEST);
  const least = ppi === null ? LEAST_SHARE * Math.max(level.width, level.height) : (LEAST_MM * ppi) / 25.4 / scale;
  const isPrint = (box: Box): boolean =>
    Math.min(sideOf(box, 0), sideOf(box, 1)) >= least && boxArea(box) < WHOLE * level.width * level.height;
  const candidates = parts.filter((part) => longestOf(part) >= least / 3).flatMap((part) => partTouching(part, map, planes));
  const outlines = joined(candidates)
    .map(({ hull, unsure, isOthers }) => ({ box: upright(boxOf(hull)), unsure, isOthers }))
    .filter(({ box }) => isPrint(box));
  const pieces = outlines.map(({ box, unsure, isOthers }, i): FoundPiece => {
    const others = outlines.filter((_, j) => j !== i).map((other) => other.box);
    const coarse = sidesOnLevel(lid.off, level.width, level.height, limit, box, isOthers);
    const { corners, seen, angleRad, sdRad } = settledWithBorder(
      levels,
      { rest: lid.rest, width: level.width, height: level.height },
      coarse,
      scale,
      others,
      !photographed,
    );
    const inner = innerEdge(levels, planes, corners);
    return {
      corners: plain(corners),
      inner: inner && plain(inner),
      angleDeg: -degrees(angleRad),
      sdDeg: degrees(sdRad),
      how: unsure && !coarse.every(({ share }) => share >= WELL_SEEN) ? 'touches' : seen.every(Boolean) ? 'seen' : 'partly',
    };
  });
  return { pieces: inReadingOrder(pieces), silent: pieces.length === 0 ? 'Nothing but the lid is seen.' : null };
}

const plain = (box: Box): Piece['corners'] => box.map(([x, y]): [number, number] => [x, y]) as Piece['corners'];

const longestOf = ({ hull }: Part): number => {
  const box = boxOf(hull);
  return Math.max(sideOf(box, 0), sideOf(box, 1));
};

/** A box whose first side is the upper one, as nearly level as a side can be. */
export function upright(box: Box): Box {
  const angles = [0, 1, 2, 3].map((i) => {
    const [p, q] = [box[i] as Point, box[(i + 1) % 4] as Point];
    return Math.abs(Math.atan2(q[1] - p[1], q[0] - p[0]));
  });
  const first = angles.indexOf(Math.min(...angles));
  return [0, 1, 2, 3].map((i) => box[(first + i) % 4] as Point) as unknown as Box;
}

/** White borders are so wide, as a share of the scan's longer side (a matter of judgement: 1.8 to 15 mm on DIN A4). */
const NARROWEST_BORDER = 0.006;
const WIDEST_BORDER = 0.05;

/** Sides settled on the edges that are seen; then each moved out to the faint edge that a white border leaves on a white lid. */
function settledWithBorder(
  levels: readonly Raster[],
  rest: Rest,
  coarse: readonly CoarseSide[],
  scale: number,
  others: readonly Box[],
  right: boolean,
): SettledSides {
  const onScan = (sides: readonly CoarseSide[]): readonly CoarseSide[] =>
    sides.map((side) => ({ ...side, at: [side.at[0] * scale, side.at[1] * scale] }));
  const first = settleSides(levels, onScan(coarse), scale, right);
  const long = Math.max(rest.width, rest.height);
  const out = first.sides.map((_, i) => {
    const [p, q] = [first.corners[i], first.corners[(i + 1) % 4]].map((at) => [
      (at as Point)[0] / scale,
      (at as Point)[1] / scale,
    ]) as unknown as [Point, Point];
    // the other one may have a border too
    const room = roomOutside(p, q, 2 * WIDEST_BORDER * long, others) / 2;
    return faintSide(rest, p, q, NARROWEST_BORDER * long, room);
  });
  if (out.every((found) => found === null)) return first;
  const moved = first.sides.map((side, i): CoarseSide => {
    const by = (out[i]?.outPx ?? 0) * scale;
    return {
      at: [side.at[0] + Math.sin(side.rad) * by * sense(first, i), side.at[1] - Math.cos(side.rad) * by * sense(first, i)],
      rad: side.rad,
      share: out[i] ? 1 : first.seen[i] ? 1 : 0,
    };
  });
  return settleSides(levels, moved, scale, right);
}

/** 1 where a side's direction goes clockwise round the print, -1 where it goes the other way. */
function sense({ corners, sides }: SettledSides, i: number): number {
  const [p, q] = [corners[i] as Point, corners[(i + 1) % 4] as Point];
  const { rad } = sides[i] as { readonly rad: number };
  return Math.sign((q[0] - p[0]) * Math.cos(rad) + (q[1] - p[1]) * Math.sin(rad)) || 1;
}

/** How far it is from a side outwards to the nearest other print, at most so far, px. */
function roomOutside(p: Point, q: Point, most: number, others: readonly Box[]): number {
  const length = Math.hypot(q[0] - p[0], q[1] - p[1]);
  const [c, s] = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
  let room = most;
  for (const other of others)
    for (let i = 0; i < 4; i += 1)
      for (let t = 0; t <= 1; t += 0.05) {
        const [a, b] = [other[i] as Point, other[(i + 1) % 4] as Point];
        const [x, y] = [a[0] + t * (b[0] - a[0]) - p[0], a[1] + t * (b[1] - a[1]) - p[1]];
        const [u, v] = [x * c + y * s, x * s - y * c];
        if (u > -0.02 * length && u < 1.02 * length && v > 0 && v < room) room = v;
      }
  return room;
}

/** Row by row from the top, each from the left: a print is of a row where its middle lies within the first one's height. */
export function inReadingOrder<T extends Pick<FoundPiece, 'corners'>>(pieces: readonly T[]): T[] {
  const middle = ({ corners }: T): Point => [corners.reduce((sum, p) => sum + p[0], 0) / 4, corners.reduce((sum, p) => sum + p[1], 0) / 4];
  const rest = [...pieces].sort((a, b) => middle(a)[1] - middle(b)[1]);
  const ordered: T[] = [];
  while (rest.length > 0) {
    const first = rest[0] as T;
    const bottom = Math.max(...first.corners.map((p) => p[1]));
    const row = rest.filter((piece) => middle(piece)[1] < (middle(first)[1] + bottom) / 2);
    ordered.push(...row.sort((a, b) => middle(a)[0] - middle(b)[0]));
    for (const piece of row) rest.splice(rest.indexOf(piece), 1);
  }
  return ordered;
}
