import type { Correction, Shim } from '../correction/schema';
import type { Point } from '../picture/point';
import { following, type EaseMap } from './relief';
import { edgeEasing, sideAxis } from './edge-easing';
import { projectionEasing, type RayPlane } from './projection-easing';

/** Whether anything is eased, or moved by a shim. */
export const isEased = ({ ease, camera }: Correction): boolean =>
  (ease.projection > 0 && !camera.flat) || ease.edges.some((e) => e.amount > 0) || ease.shims.some(moves);

/** Whether a shim moves anything: it is used, and something is asked of it. */
export const moves = ({ used, holds, lines }: Shim): boolean => used && holds.length + lines.length > 0;

/**
 * The projection, then the edges in their order, in one map; null where nothing is eased.
 *
 * @param place where the aim's rays meet the plane
 * @param toFlat picture -> flat plane, for the boundaries; one without an image eases nothing
 */
export function easeMap(correction: Correction, place: RayPlane, toFlat: (p: Point) => Point | null): EaseMap | null {
  const { ease, camera } = correction;
  let map: EaseMap | null = ease.projection > 0 && !camera.flat ? projectionEasing(ease.projection, place, ease.along) : null;
  for (const edge of ease.edges) {
    const boundary = edge.amount > 0 ? boundaryOf(map, toFlat(edge.at), sideAxis(edge.side).k) : null;
    if (boundary !== null) map = following(map, edgeEasing(edge, boundary));
  }
  return map;
}

/** Where a boundary lies after what is eased before it, px along its axis. */
function boundaryOf(before: EaseMap | null, flat: Point | null, k: 0 | 1): number | null {
  if (!flat) return null;
  const out = new Float64Array(flat);
  if (before && !before.forward(flat[0], flat[1], out)) return null;
  return out[k] as number;
}
