import type { Correction, Shim, ShimLine } from '../correction/schema';
import { cellsOf } from '../ease/shim-spline';
import { PlumbError } from '../picture/failure';
import type { Point, Rect } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';
import { nextId } from './next-id';
import { shimOf, warpBeforeShim, withShimBox, withShimChanged } from './shims';

/** So many cells of the net lie between a line's ends and the border, so that it can come true to its ends. */
const CELLS_BEYOND = 3;
/** Crossings of a net that has lines, at least. */
const CROSSINGS_WITH_LINES = 10;
/** Slopes at which a line is taken to become level, or plumb, degrees off the horizontal (common practice, no published source). */
const LEVEL_BELOW_DEG = 20;
const PLUMB_ABOVE_DEG = 70;

/** What a line on the plane is taken to become, by how it runs; one of many points to become straight. */
export function kindOfShimLine(points: readonly Point[]): ShimLine['kind'] {
  const [a, b] = [points[0] as Point, points.at(-1) as Point];
  if (points.length > 2) return 'straight';
  const slope = (Math.atan2(Math.abs(b[1] - a[1]), Math.abs(b[0] - a[0])) * 180) / Math.PI;
  return slope < LEVEL_BELOW_DEG ? 'level' : slope > PLUMB_ABOVE_DEG ? 'plumb' : 'straight';
}

/**
 * The document with a line in a shim that becomes true. The net becomes fine enough and the box large enough for it to come true to its
 * ends; in both nothing that is held moves.
 *
 * @param points along it, picture px, two or more
 * @param kind by default as it runs
 * @throws PlumbError where it has no image, or runs so that it cannot become what it should
 */
export function withShimLine(correction: Correction, id: string, points: readonly Point[], kind?: ShimLine['kind']): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  const warp = warpBeforeShim(correction, id);
  const on = points.map((p) => toPlane(warp, p));
  if (points.length < 2 || !on.every((p) => p !== null))
    throw new PlumbError('line-outside', 'This line leaves what can be seen of the picture.', 'Draw it inside; nothing was changed.');
  const become = kind ?? kindOfShimLine(on);
  const line: ShimLine = { id: nextId('line', shim.lines), kind: become, points: points.map(([x, y]) => [x, y]) };
  refuseAcross(on, become);
  return roomFor(withShimChanged(correction, id, { lines: [...shim.lines, line] }), id, gentle(boundsOf(on), become), warp);
}

/** A line that runs square to what it should become has no way there. */
function refuseAcross(on: readonly Point[], kind: ShimLine['kind']): void {
  const [a, b] = [on[0] as Point, on.at(-1) as Point];
  const [dx, dy] = [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])];
  if ((kind === 'level' && dy > dx) || (kind === 'plumb' && dx > dy))
    throw new PlumbError(
      'line-across',
      kind === 'level' ? 'This line is nearer to plumb than to level.' : 'This line is nearer to level than to plumb.',
      'Choose the other, or straight; nothing was changed.',
    );
}

/** The document with another kind for a line of a shim. Throws as {@link withShimLine} does. */
export function withShimLineKind(correction: Correction, id: string, lineId: string, kind: ShimLine['kind']): Correction {
  const shim = shimOf(correction, id);
  const line = shim?.lines.find((l) => l.id === lineId);
  if (!shim || !line) return correction;
  const warp = warpBeforeShim(correction, id);
  const on = line.points.map((p) => toPlane(warp, p));
  if (on.every((p) => p !== null)) refuseAcross(on, kind);
  return withShimChanged(correction, id, { lines: shim.lines.map((l) => (l === line ? { ...l, kind } : l)) });
}

export const withoutShimLine = (correction: Correction, id: string, lineId: string): Correction => {
  const shim = shimOf(correction, id);
  return shim ? withShimChanged(correction, id, { lines: shim.lines.filter((l) => l.id !== lineId) }) : correction;
};

/** What is moved by so much has this many times as much room on both sides, so that it bends gently. */
const GENTLE = 1.5;

/** The room that a line needs: beyond its own, as it has to move. */
function gentle({ x, y, width, height }: Rect, kind: ShimLine['kind']): Rect {
  const across = kind === 'level' ? 0 : GENTLE * width;
  const down = kind === 'plumb' ? 0 : GENTLE * height;
  return kind === 'straight'
    ? { x, y, width, height }
    : { x: x - across, y: y - down, width: width + 2 * across, height: height + 2 * down };
}

/** Rounds in which a side grows: each time its cells grow too, by less and less. */
const GROWING = 16;

/** The document whose shim has cells enough all round a line. */
function roomFor(correction: Correction, id: string, line: Rect, warp: PlaneWarp): Correction {
  const shim = shimOf(correction, id) as Shim;
  const crossings = Math.max(shim.crossings, CROSSINGS_WITH_LINES);
  const middle = toPlane(warp, shim.at);
  const finer = withShimChanged(correction, id, { crossings });
  if (!middle) return finer;
  const beyond = CELLS_BEYOND / cellsOf(crossings);
  // a side as long as it must be for so many of its own cells to lie beyond both ends
  const grown = (low: number, length: number, from: number, to: number): readonly [number, number] => {
    let [least, most] = [low, low + length];
    for (let i = 0; i < GROWING; i += 1) {
      const room = (most - least) * beyond;
      [least, most] = [Math.min(least, from - room), Math.max(most, to + room)];
    }
    return [least, most];
  };
  const [left, right] = grown(middle[0] - shim.width / 2, shim.width, line.x, line.x + line.width);
  const [top, bottom] = grown(middle[1] - shim.height / 2, shim.height, line.y, line.y + line.height);
  const box = { x: left, y: top, width: right - left, height: bottom - top };
  if (box.width === shim.width && box.height === shim.height) return finer;
  try {
    return withShimBox(finer, id, box);
  } catch (error) {
    if (error instanceof PlumbError) return finer;
    throw error;
  }
}
