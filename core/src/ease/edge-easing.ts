import type { EdgeEase } from '../correction/schema';
import type { EaseMap } from './relief';

/** A way along one direction and back, px, both growing. */
export interface Course {
  readonly forward: (u: number) => number;
  readonly back: (v: number) => number;
  /** The greatest slope of the stretch that gives the room; 1 where none does. */
  readonly widest: number;
}

/**
 * What lies beyond a boundary (u > 0) made narrower: the slope falls from 1 at the boundary to 1 - amount at `reach` and stays there. With
 * `room`, a stretch of that width before the boundary becomes as much wider as the part between boundary and `frame` loses, so that
 * u = frame stays in its place; its slope rises and falls evenly, 1 at both ends.
 *
 * @param amount 0..0.8; @param reach px, above 0
 * @param room width of the stretch and where the frame lies, px from the boundary; null for none
 */
export function edgeCourse(amount: number, reach: number, room: { readonly width: number; readonly frame: number } | null): Course {
  const eased = reach * (1 - amount / 2);
  const narrow = (u: number): number => (u <= 0 ? u : u < reach ? u - (amount * u * u) / (2 * reach) : eased + (1 - amount) * (u - reach));
  const widen = (v: number): number =>
    v <= 0 ? v : v < eased ? (2 * v) / (1 + Math.sqrt(1 - (2 * amount * v) / reach)) : reach + (v - eased) / (1 - amount);
  if (!room || room.frame <= 0) return { forward: narrow, back: widen, widest: 1 };
  const { width: c, frame } = room;
  const gain = frame - narrow(frame);
  const h = (2 * gain) / c;
  // t runs 0..1 over the stretch; its slope is 1 + h up to the middle and down again
  const quadratic = (q: number): number => (2 * q) / (1 + Math.sqrt(1 + 4 * h * q));
  return {
    forward(u) {
      if (u <= -c) return u;
      if (u > 0) return gain + narrow(u);
      const t = (u + c) / c;
      return t <= 0.5 ? u + h * c * t * t : u + gain - h * c * (1 - t) * (1 - t);
    },
    back(v) {
      if (v <= -c) return v;
      if (v > gain) return widen(v - gain);
      return v <= -c / 2 + (h * c) / 4 ? c * quadratic((v + c) / c) - c : -c * quadratic((gain - v) / c);
    },
    widest: 1 + h,
  };
}

/** Whether a side lies across (left, right) and towards which end of its axis. */
export const sideAxis = (side: EdgeEase['side']): { readonly k: 0 | 1; readonly sign: 1 | -1 } => ({
  k: side === 'left' || side === 'right' ? 0 : 1,
  sign: side === 'right' || side === 'bottom' ? 1 : -1,
});

/** The course of an edge easing whose boundary lies at `boundary` on the plane, px. */
export function courseOf({ side, amount, reach, room }: EdgeEase, boundary: number): Course {
  const { sign } = sideAxis(side);
  return edgeCourse(amount, reach, room && { width: room.width, frame: sign * (room.frame - boundary) });
}

/**
 * Edge easing as a map of the plane: x alone is changed (left, right) or y alone (top, bottom), so that verticals stay vertical and
 * straight and levels level; obliques bend.
 */
export function edgeEasing(edge: EdgeEase, boundary: number): EaseMap {
  const { k, sign } = sideAxis(edge.side);
  const { forward, back } = courseOf(edge, boundary);
  const map =
    (along: (u: number) => number) =>
    (x: number, y: number, out: Float64Array): boolean => {
      out[0] = x;
      out[1] = y;
      out[k] = boundary + sign * along(sign * ((k === 0 ? x : y) - boundary));
      return true;
    };
  return { forward: map(forward), back: map(back) };
}
