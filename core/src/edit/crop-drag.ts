import type { Point, Rect } from '../picture/point';

/** A part of the crop that can be dragged: corners and sides by compass points, or the inside. */
export type CropPart = 'nw' | 'n' | 'ne' | 'e' | 'se' | 's' | 'sw' | 'w' | 'inside';

/** How a crop drag behaves. */
export interface CropDragOptions {
  /** Proportions to hold, width / height; free when absent. */
  readonly ratio?: number | undefined;
  /** Resize about the centre. */
  readonly fromCentre?: boolean | undefined;
}

/** Smallest crop, plane px. */
const SMALLEST = 8;

/** Every handle of a crop with its position on the plane. */
export function cropHandles(r: Rect): readonly { readonly part: CropPart; readonly at: Point }[] {
  const [x0, x1, x2] = [r.x, r.x + r.width / 2, r.x + r.width];
  const [y0, y1, y2] = [r.y, r.y + r.height / 2, r.y + r.height];
  return [
    { part: 'nw', at: [x0, y0] },
    { part: 'n', at: [x1, y0] },
    { part: 'ne', at: [x2, y0] },
    { part: 'e', at: [x2, y1] },
    { part: 'se', at: [x2, y2] },
    { part: 's', at: [x1, y2] },
    { part: 'sw', at: [x0, y2] },
    { part: 'w', at: [x0, y1] },
  ];
}

/**
 * The crop after a drag, computed from the crop at its start and the pointer's whole way; plane px. The opposite side or corner stays,
 * or the centre when asked. A side dragged with held proportions grows the other axis about its middle.
 */
export function dragCrop(start: Rect, part: CropPart, by: Point, { ratio, fromCentre = false }: CropDragOptions = {}): Rect {
  const [dx, dy] = by;
  if (part === 'inside') return { ...start, x: start.x + dx, y: start.y + dy };
  const signX = part.includes('e') ? 1 : part.includes('w') ? -1 : 0;
  const signY = part.includes('s') ? 1 : part.includes('n') ? -1 : 0;
  const times = fromCentre ? 2 : 1;
  let width = Math.max(SMALLEST, start.width + signX * dx * times);
  let height = Math.max(SMALLEST, start.height + signY * dy * times);
  if (ratio !== undefined) {
    if (signX === 0) width = height * ratio;
    else if (signY === 0) height = width / ratio;
    else {
      // the corner follows the pointer's projection on the diagonal
      const along = (width * ratio + height) / (ratio * ratio + 1);
      height = Math.max(SMALLEST, SMALLEST / ratio, along);
      width = height * ratio;
    }
  }
  const place = (from: number, size: number, next: number, sign: number): number => {
    if (fromCentre || sign === 0) return from + (size - next) / 2;
    return sign > 0 ? from : from + size - next;
  };
  return { x: place(start.x, start.width, width, signX), y: place(start.y, start.height, height, signY), width, height };
}

/** A fresh crop dragged from one plane point to another, with held proportions when given. */
export function freshCrop(from: Point, to: Point, ratio?: number): Rect | null {
  let [width, height] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
  if (ratio !== undefined) {
    if (width / ratio > height) height = width / ratio;
    else width = height * ratio;
  }
  if (width < SMALLEST || height < SMALLEST) return null;
  return { x: to[0] < from[0] ? from[0] - width : from[0], y: to[1] < from[1] ? from[1] - height : from[1], width, height };
}

/** Degrees that a pointer has gone round a centre, clockwise as seen positive, in (-180, 180]. */
export function turnedByDeg(centre: Point, from: Point, to: Point): number {
  const angle = (p: Point): number => Math.atan2(p[1] - centre[1], p[0] - centre[0]);
  let turn = ((angle(to) - angle(from)) * 180) / Math.PI;
  while (turn > 180) turn -= 360;
  while (turn <= -180) turn += 360;
  return turn;
}
