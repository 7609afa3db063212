import type { Correction } from '../correction/schema';
import type { Point } from '../picture/point';
import type { EaseMap } from './relief';
import { edgeEasing, sideAxis } from './edge-easing';
import { projectionEasing, type RayPlane } from './projection-easing';

/** Whether anything is eased. */
export const isEased = ({ ease, camera }: Correction): boolean =>
  (ease.projection > 0 && !camera.flat) || ease.edges.some((e) => e.amount > 0);

/**
 * Everything that is eased in one map: the projection first, then the edges in their order. Null where nothing is.
 *
 * @param place where the aim's rays meet the plane
 * @param toFlat picture -> flat plane, for the boundaries; one without an image eases nothing
 */
export function easeMap(correction: Correction, place: RayPlane, toFlat: (p: Point) => Point | null): EaseMap | null {
  if (!isEased(correction)) return null;
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

function following(first: EaseMap | null, then: EaseMap): EaseMap {
  if (!first) return then;
  return {
    forward: (x, y, out) => first.forward(x, y, out) && then.forward(out[0] as number, out[1] as number, out),
    back: (x, y, out) => then.back(x, y, out) && first.back(out[0] as number, out[1] as number, out),
  };
}
