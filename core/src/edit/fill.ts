import type { Correction, Fill, FillArea } from '../correction/schema';
import { emptyParts } from '../fill/empty-parts';
import type { Warp } from '../crop/compose-warp';
import { PlumbError } from '../picture/failure';
import { distance, rectCorners, type Point, type Rect } from '../picture/point';
import { toPicture, type PlaneWarp } from '../warp/plane-warp';
import { nextId } from './next-id';

const withFill = (correction: Correction, change: Partial<Fill>): Correction => ({
  ...correction,
  crop: { ...correction.crop, fill: { ...correction.crop.fill, ...change } },
});

/**
 * The document with another answer for its empty edges. A crop that nobody has set by hand goes round the original frame when they are
 * filled: round the whole corrected picture there would be too much to invent.
 */
export function withEmptyEdges(correction: Correction, edges: Correction['crop']['edges']): Correction {
  const { crop } = correction;
  const whole = crop.around === 'picture' || crop.around === 'lines';
  return { ...correction, crop: { ...crop, edges, ...(edges === 'fill' && !crop.rect && whole ? { around: 'frame' as const } : {}) } };
}

/** The document with a box, as it lies on the plane, from which may or may not be copied. Unchanged where it has no image. */
export function withFillBox(correction: Correction, warp: PlaneWarp, box: Rect, kind: FillArea['kind']): Correction {
  const corners = rectCorners(box).map((p) => toPicture(warp, p));
  if (!corners.every((p) => p !== null)) throw outside();
  return withArea(correction, { kind, points: corners.map(([x, y]) => [x, y]) });
}

/** The document with a brush stroke along points of the plane; @param width on the plane, px. */
export function withFillStroke(
  correction: Correction,
  warp: PlaneWarp,
  points: readonly Point[],
  width: number,
  kind: FillArea['kind'],
): Correction {
  const along = points.map((p) => toPicture(warp, p));
  const [first, beside] = [along[0], points[0] && toPicture(warp, [points[0][0] + 1, points[0][1]])];
  if (!along.every((p) => p !== null) || !first || !beside) throw outside();
  // a stroke is as wide in the picture as it was seen where it began
  const widthPx = Math.max(1, width * distance(first, beside));
  // points much nearer to each other than the stroke is wide say nothing more
  const kept = along.reduce<Point[]>((all, p, i) => {
    const last = all.at(-1);
    return !last || i === along.length - 1 || distance(p, last) > widthPx / 6 ? [...all, p] : all;
  }, []);
  const line = kept.length === 1 ? [kept[0] as Point, kept[0] as Point] : kept;
  return withArea(correction, { kind, points: line.map(([x, y]) => [x, y]), widthPx });
}

const outside = (): PlumbError =>
  new PlumbError('fill-outside', 'This lies where there is no picture.', 'Draw it over the picture itself; nothing was changed.');

function withArea(correction: Correction, area: Omit<FillArea, 'id'>): Correction {
  const { areas } = correction.crop.fill;
  return withFill(correction, { areas: [...areas, { id: nextId('area', areas), ...area }] });
}

/** The document without one area or line of its filling. */
export const withoutFillMark = (correction: Correction, id: string): Correction =>
  withFill(correction, {
    areas: correction.crop.fill.areas.filter((a) => a.id !== id),
    lines: correction.crop.fill.lines.filter((l) => l.id !== id),
  });

/** The document with a line, by its ends in the picture, that goes straight on into the empty part. */
export function withStraightOn(correction: Correction, a: Point, b: Point): Correction {
  const { lines } = correction.crop.fill;
  return withFill(correction, { lines: [...lines, { id: nextId('on', lines), a: [...a], b: [...b] }] });
}

/** The document with an empty part of its crop left empty, or filled with the others. */
export function withPartLeft(correction: Correction, warp: Warp, at: Point, left: boolean): Correction {
  const { leave } = correction.crop.fill;
  if (left) return withFill(correction, { leave: [...leave, [...at]] });
  // whatever points to it: it is the part that counts
  const kept = leave.filter((p) => {
    const alone = emptyParts(withFill(correction, { leave: [p] }), warp);
    return !alone.some((part) => part.left && distance(part.at, at) < 1e-6);
  });
  return withFill(correction, { leave: kept });
}

/** The document with another of many answers. */
export const withAnotherTry = (correction: Correction): Correction =>
  withFill(correction, { seed: (correction.crop.fill.seed % 1_000_000) + 1 });
