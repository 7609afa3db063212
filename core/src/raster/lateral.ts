import type { Correction, Lateral } from '../correction/schema';
import type { Point, Size } from '../picture/point';
import type { PositionMap } from './position-map';

/** Where a lens's colours meet: its centre in the picture, px. */
export const lensCentreOf = ({ lens: { model }, picture, camera }: Correction): Point =>
  model.kind === 'none' ? (camera.centre ?? [picture.width / 2, picture.height / 2]) : [model.cx, model.cy];

/** How the colours of a source lie apart. */
export interface Apart {
  readonly lateral: Lateral;
  /** Where they meet, px of the source. */
  readonly meet: Point;
}

/** How the colours of a source lie apart that a correction brings together; null where they do not. */
export function apartIn(correction: Correction, [sx, sy]: Point): Apart | null {
  const { on, lateral } = correction.lens;
  if (!on || (lateral.red === 1 && lateral.blue === 1)) return null;
  const [x, y] = lensCentreOf(correction);
  return { lateral, meet: [x * sx, y * sy] };
}

/** By how much a colour's image is larger than the green one. */
export const sizeOfColour = ({ red, blue }: Lateral, channel: number): number => (channel === 0 ? red : channel === 2 ? blue : 1);

/**
 * Where one colour of a position lies: green where the map says, red and blue as much farther out or in as their images are larger or
 * smaller.
 *
 * @param channel 0 red, 1 green, 2 blue
 * @param size of the source, px
 */
export function colourMap(map: PositionMap, { lateral, meet: [x0, y0] }: Apart, channel: number, { width, height }: Size): PositionMap {
  const size = sizeOfColour(lateral, channel);
  if (size === 1) return map;
  return (x, y, out) => {
    if (!map(x, y, out)) return false;
    const [gx, gy] = [out[0] as number, out[1] as number];
    const filled = gx >= 0 && gy >= 0 && gx <= width && gy <= height;
    out[0] = x0 + ((out[0] as number) - x0) * size;
    out[1] = y0 + ((out[1] as number) - y0) * size;
    // a pixel that has green has its other colours: the border is repeated for what lies just beyond it
    if (filled) {
      out[0] = Math.min(width, Math.max(0, out[0] as number));
      out[1] = Math.min(height, Math.max(0, out[1] as number));
    }
    return true;
  };
}

/**
 * Draws a picture once for each colour and puts the colours together; alpha goes with green. Where the red or blue image ends before the
 * green one does, its border pixels are repeated.
 *
 * @param draw rows of `channels` interleaved samples (3 or 4) through a map
 */
export function byColours<T extends Uint8Array | Uint8ClampedArray | Uint16Array>(
  apart: Apart,
  channels: 3 | 4,
  size: Size,
  map: PositionMap,
  draw: (map: PositionMap) => T,
): T {
  const whole = draw(map);
  for (const channel of [0, 2]) {
    const own = colourMap(map, apart, channel, size);
    if (own === map) continue;
    const drawn = draw(own);
    for (let k = channel; k < whole.length; k += channels) whole[k] = drawn[k] as number;
  }
  return whole;
}
