import type { Point } from '../picture/point';
import type { LensMap } from './lens-map';

/** The line n . p = c that lies best among points: least squares of the distances. */
export interface BestLine {
  readonly normal: Point;
  readonly c: number;
}

/** Least-squares line through points with weights (1 where none are given): the direction of greatest spread about the mean. */
export function bestLine(points: readonly Point[], weights?: readonly number[]): BestLine {
  let [total, mx, my] = [0, 0, 0];
  points.forEach(([x, y], i) => {
    const w = weights?.[i] ?? 1;
    total += w;
    mx += w * x;
    my += w * y;
  });
  mx /= total;
  my /= total;
  let [xx, xy, yy] = [0, 0, 0];
  points.forEach(([x, y], i) => {
    const w = weights?.[i] ?? 1;
    xx += w * (x - mx) * (x - mx);
    xy += w * (x - mx) * (y - my);
    yy += w * (y - my) * (y - my);
  });
  const along = 0.5 * Math.atan2(2 * xy, xx - yy);
  const normal: Point = [-Math.sin(along), Math.cos(along)];
  return { normal, c: normal[0] * mx + normal[1] * my };
}

/** Bow of a traced edge through a lens: greatest distance from its best-fitting line, ideal px; null where a point has no image. */
export function bowOf(lens: Pick<LensMap, 'undistort'>, points: readonly Point[]): number | null {
  const out = new Float64Array(2);
  const ideal: Point[] = [];
  for (const [x, y] of points) {
    if (!lens.undistort(x, y, out)) return null;
    ideal.push([out[0] as number, out[1] as number]);
  }
  if (ideal.length < 3) return 0;
  const { normal, c } = bestLine(ideal);
  return Math.max(...ideal.map(([x, y]) => Math.abs(normal[0] * x + normal[1] * y - c)));
}
