import { rectAround, rectCentre, type Point, type Rect } from './point';

/** A point turned clockwise by quarters about the origin. */
export const turnedAbout = ([x, y]: Point, turns: number): Point =>
  turns === 1 ? [-y, x] : turns === 2 ? [-x, -y] : turns === 3 ? [y, -x] : [x, y];

/** A rectangle turned clockwise by quarters about the origin. */
export function turnedRect(rect: Rect, turns: number): Rect {
  const [w, h] = turns % 2 === 1 ? [rect.height, rect.width] : [rect.width, rect.height];
  return rectAround(turnedAbout(rectCentre(rect), turns), w, h);
}
