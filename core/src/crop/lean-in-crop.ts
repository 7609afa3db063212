import { apply3, type Vec3 } from '../linear/mat3';
import { planeDirectionLean } from '../picture/line-angle';
import type { Point } from '../picture/point';
import { deviationOf, mostlyBy, type Doubt, type DoubtOf, type Sight } from '../stance/sight';
import { uneased } from '../warp/plane-warp';
import type { Warp } from './compose-warp';

export type Direction = 'plumb' | 'level';

/** The crop's corners, the middles of its sides, and its middle. */
export function placesIn({ crop }: Warp): readonly Point[] {
  const at = [0, 0.5, 1];
  return at.flatMap((v) => at.map((u): Point => [crop.x + u * crop.width, crop.y + v * crop.height]));
}

/** Lean of a vanishing point's lines at a place on the plane, degrees; level ones turned upright first. */
export function leanAt(warp: Warp, place: Point, vanishing: Vec3, direction: Direction): number {
  const flat = uneased(warp, place) ?? place;
  const [x, y, w] = apply3(warp.stance.toPlane, vanishing);
  const [dx, dy] = [x - w * flat[0], y - w * flat[1]];
  return planeDirectionLean(direction === 'plumb' ? [dx, dy] : [-dy, dx]);
}

/** The greatest deviation of a lean or slope anywhere in the crop, degrees, and what makes it up. */
export function surest(
  warp: Warp,
  { sight, doubts }: { readonly sight: Sight; readonly doubts: readonly Doubt[] },
  about: readonly Direction[],
  places: readonly Point[],
): { readonly deg: number; readonly mostlyBy: DoubtOf | null; readonly place: Point; readonly direction: Direction } {
  const all = about.flatMap((direction) =>
    places.map((place) => {
      const figure = (s: Sight): number => leanAt(warp, place, s[direction], direction);
      const at = figure(sight);
      // lines turn by half turns: beyond a quarter they are nearer from the other side
      const near = (s: Sight): number => at + ((((figure(s) - at + 90) % 180) + 180) % 180) - 90;
      return { deg: deviationOf(doubts, near, at), mostlyBy: mostlyBy(doubts, near, at), place, direction };
    }),
  );
  return all.reduce((p, q) => (q.deg > p.deg ? q : p));
}
