import type { Vec3 } from '../linear/mat3';
import type { Attitude } from './attitude';

/** What leaves a stance unsure: the pointing, the focal length, the lens that is not straightened, a movement that nothing tells,
 * another answer that fits as well. */
export type DoubtOf = 'pointing' | 'focal' | 'bend' | 'tilt' | 'swing' | 'rival';

/** How a camera may have stood: its attitude, and where plumb and level things run in the picture (vanishing points, ideal px, homogeneous). */
export interface Sight {
  readonly attitude: Attitude;
  readonly plumb: Vec3;
  readonly level: Vec3;
}

/** One thing that is not known, one standard deviation either way; independent of all others. */
export interface Doubt {
  readonly of: DoubtOf;
  readonly plus: Sight;
  readonly minus: Sight;
}

/** The greater deviation of a figure to either side, for one doubt. */
const reachOf = ({ plus, minus }: Doubt, figure: (sight: Sight) => number, at: number): number =>
  Math.max(Math.abs(figure(plus) - at), Math.abs(figure(minus) - at));

/** Standard deviation of a figure of the camera: what every doubt does to it, by squares. */
export const deviationOf = (doubts: readonly Doubt[], figure: (sight: Sight) => number, at: number): number =>
  Math.sqrt(doubts.reduce((sum, doubt) => sum + reachOf(doubt, figure, at) ** 2, 0));

/** What a figure is mostly unsure by: what makes up two thirds of its variance; null where several things do. */
export function mostlyBy(doubts: readonly Doubt[], figure: (sight: Sight) => number, at: number): DoubtOf | null {
  const parts = new Map<DoubtOf, number>();
  for (const doubt of doubts) parts.set(doubt.of, (parts.get(doubt.of) ?? 0) + reachOf(doubt, figure, at) ** 2);
  const total = [...parts.values()].reduce((sum, v) => sum + v, 0);
  return [...parts].find(([, v]) => v > (2 / 3) * total)?.[0] ?? null;
}
