import type { Point, Size } from './point';

/** Number of clockwise quarter turns. */
export type QuarterTurns = 0 | 1 | 2 | 3;

/** Brings any whole number into 0..3. */
export const normaliseQuarterTurns = (turns: number): QuarterTurns => (((turns % 4) + 4) % 4) as QuarterTurns;

/** Size after clockwise quarter turns. */
export const turnedSize = (size: Size, turns: QuarterTurns): Size => (turns % 2 === 0 ? size : { width: size.height, height: size.width });

/** Picture -> turned, clockwise; px. */
export function turnPoint([x, y]: Point, size: Size, turns: QuarterTurns): Point {
  switch (turns) {
    case 0:
      return [x, y];
    case 1:
      return [size.height - y, x];
    case 2:
      return [size.width - x, size.height - y];
    case 3:
      return [y, size.width - x];
  }
}
