import type { Correction, EdgeEase, ShapeRing } from '../correction/schema';
import { courseOf, sideAxis } from '../ease/edge-easing';
import { keepCropInPlace } from './keep-crop-in-place';
import { nextId } from './next-id';
import { movedPoint } from './references';
import { type Point, type Rect, rectCentre } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { ringOutline } from '../readings/ring';
import { type PlaneWarp, planeWarp, toPicture, toPlane } from '../warp/plane-warp';

const withEase = (correction: Correction, change: Partial<Correction['ease']>): Correction => ({
  ...correction,
  ease: { ...correction.ease, ...change },
});

/** The document with its projection eased, 0..1; a crop by hand stays over the same picture point. */
export const withProjectionEase = (correction: Correction, amount: number): Correction =>
  keepCropInPlace(correction, withEase(correction, { projection: Math.min(1, Math.max(0, amount)) }));

/** The document with nothing eased; rings stay, since they only measure. */
export const withoutEase = (correction: Correction): Correction =>
  keepCropInPlace(correction, withEase(correction, { projection: 0, edges: [], shims: [] }));

// ---- rings

/** The document with a ring more, laid into a rectangle of the plane; unchanged without an image there. */
export function withRing(correction: Correction, warp: PlaneWarp, onPlane: Rect, kind: ShapeRing['kind']): Correction {
  const [x, y] = rectCentre(onPlane);
  const [centre, right, top] = [
    toPicture(warp, [x, y]),
    toPicture(warp, [x + onPlane.width / 2, y]),
    toPicture(warp, [x, y - onPlane.height / 2]),
  ];
  if (!centre || !right || !top || onPlane.width < 2 || onPlane.height < 2) return correction;
  const ring: ShapeRing = { id: nextId('ring', correction.ease.rings), kind, centre: [...centre], right: [...right], top: [...top] };
  return withEase(correction, { rings: [...correction.ease.rings, ring] });
}

/** The document with one ring changed. */
export const withRingChanged = (correction: Correction, id: string, change: Partial<ShapeRing>): Correction =>
  withEase(correction, { rings: correction.ease.rings.map((r) => (r.id === id ? { ...r, ...change } : r)) });

/** The document without one ring. */
export const withoutRing = (correction: Correction, id: string): Correction =>
  withEase(correction, { rings: correction.ease.rings.filter((r) => r.id !== id) });

/** A handle of a ring: its middle moves it, the ends of its half axes shape it. */
export const RING_HANDLES = ['centre', 'right', 'top'] as const;
export type RingHandle = (typeof RING_HANDLES)[number];

/** A ring after one of its handles was moved by a way on the plane, px; null without an image there. */
export function movedRing(warp: PlaneWarp, ring: ShapeRing, handle: RingHandle, by: Point): ShapeRing | null {
  const moved = movedPoint(warp, ring[handle], by);
  if (!moved) return null;
  if (handle !== 'centre') return { ...ring, [handle]: moved };
  const [right, top] = [movedPoint(warp, ring.right, by), movedPoint(warp, ring.top, by)];
  return right && top && { ...ring, centre: moved, right, top };
}

// ---- edges

/** An edge easing as it lies on the plane that is shown, px. */
export interface EdgeEaseOnPlane {
  readonly edge: EdgeEase;
  readonly k: 0 | 1;
  /** Where the boundary lies before this edge is eased, px along its axis. */
  readonly from: number;
  /** Coordinates along the axis: where the boundary is seen, where all is narrowed in full, and where the stretch that gives the room begins. */
  readonly boundary: number;
  readonly full: number;
  readonly room: number | null;
  /** Where the boundary's own point is seen. */
  readonly at: Point;
  /** By how much the stretch that gives the room is widened at most. */
  readonly widest: number;
}

/** The edge easings as they are seen; those without an image are left out. */
export function edgeEasesOnPlane(correction: Correction, warp: PlaneWarp): EdgeEaseOnPlane[] {
  return correction.ease.edges.flatMap((edge, i) => {
    const { k, sign } = sideAxis(edge.side);
    const from = flatBoundary(correction, i);
    const at = toPlane(warp, edge.at);
    if (from === null || !at) return [];
    const course = courseOf(edge, from);
    const seen = (u: number): number => from + sign * course.forward(u);
    return [
      { edge, k, from, boundary: seen(0), full: seen(edge.reach), room: edge.room && seen(-edge.room.width), at, widest: course.widest },
    ];
  });
}

/** The warp as it is before one of the edges is eased; shims come after all of them. */
const warpBefore = (correction: Correction, index: number): PlaneWarp =>
  planeWarp(withEase(correction, { edges: correction.ease.edges.slice(0, index), shims: [] }), correction.picture);

/** Where the boundary of an edge lies before this edge is eased, px along its axis. */
function flatBoundary(correction: Correction, index: number): number | null {
  const edge = correction.ease.edges[index] as EdgeEase;
  return toPlane(warpBefore(correction, index), edge.at)?.[sideAxis(edge.side).k] ?? null;
}

/** The document with an edge more, narrowing what lies beyond a boundary; unchanged where the boundary has no image. */
export function withNewEdgeEase(
  correction: Correction,
  warp: PlaneWarp,
  edge: Omit<EdgeEase, 'id' | 'at' | 'room'>,
  boundary: Point,
): Correction {
  const at = toPicture(warp, boundary);
  if (!at) return correction;
  const next: EdgeEase = { ...edge, id: nextId('ease', correction.ease.edges), at: [...at], room: null };
  return withEase(correction, { edges: [...correction.ease.edges, next] });
}

/** Where an edge begins that nobody has placed, and how far it takes: shares of the crop. */
const FIRST_BOUNDARY = 0.7;
const FIRST_REACH = 0.12;
const FIRST_AMOUNT = 0.15;

/** The document with an edge easing towards a side of the crop, to be placed by hand. */
export function withEdgeTowards(correction: Correction, warp: PlaneWarp, crop: Rect, side: EdgeEase['side']): Correction {
  const { k, sign } = sideAxis(side);
  const length = k === 0 ? crop.width : crop.height;
  const at: [number, number] = [...rectCentre(crop)];
  at[k] += sign * (FIRST_BOUNDARY - 0.5) * length;
  return withNewEdgeEase(correction, warp, { side, amount: FIRST_AMOUNT, reach: FIRST_REACH * length }, at);
}

/** The document with one edge changed. */
export const withEdgeEase = (correction: Correction, id: string, change: Partial<EdgeEase>): Correction =>
  withEase(correction, { edges: correction.ease.edges.map((e) => (e.id === id ? { ...e, ...change } : e)) });

/** The document without one edge. */
export const withoutEdgeEase = (correction: Correction, id: string): Correction =>
  withEase(correction, { edges: correction.ease.edges.filter((e) => e.id !== id) });

/** The document with an edge's boundary elsewhere along its axis, as it lies before this edge is eased, px; unchanged without an image there. */
export function withBoundary(correction: Correction, id: string, boundary: number): Correction {
  const index = correction.ease.edges.findIndex((e) => e.id === id);
  const edge = correction.ease.edges[index];
  if (!edge) return correction;
  const before = warpBefore(correction, index);
  const on = toPlane(before, edge.at);
  const next = on && toPicture(before, sideAxis(edge.side).k === 0 ? [boundary, on[1]] : [on[0], boundary]);
  return next ? withEdgeEase(correction, id, { at: [next[0], next[1]] }) : correction;
}

/** A stretch that gives the room is at first as long as it takes to be widened no more than this, where the crop has as much. */
const FIRST_WIDEST = 1.5;

/** The document whose frame stays while an edge is narrowed, a stretch before the boundary giving the room; or no longer. */
export function withRoom(correction: Correction, crop: Rect, id: string, keep: boolean): Correction {
  const index = correction.ease.edges.findIndex((e) => e.id === id);
  const edge = correction.ease.edges[index];
  const boundary = edge && flatBoundary(correction, index);
  if (!edge || boundary === null || boundary === undefined) return correction;
  if (!keep) return withEdgeEase(correction, id, { room: null });
  const { k, sign } = sideAxis(edge.side);
  const { forward, back } = courseOf({ ...edge, room: null }, boundary);
  const [low, length] = k === 0 ? [crop.x, crop.width] : [crop.y, crop.height];
  const [near, far] = sign > 0 ? [low + length, low] : [low, low + length];
  // the frame is the crop's side as it was before this edge was eased
  const beyond = back(sign * (near - boundary));
  const enough = (2 * (beyond - forward(beyond))) / (FIRST_WIDEST - 1);
  const width = Math.max(edge.reach, Math.min(sign * (boundary - far), enough));
  return withEdgeEase(correction, id, { room: { width, frame: boundary + sign * beyond } });
}

/** A ring's box on the plane that is shown, px; null without an image. */
export function ringBox(warp: PlaneWarp, ring: ShapeRing): Rect | null {
  const points = ringOutline(ring).map((p) => toPlane(warp, p));
  return points.every((p) => p !== null) ? boundsOf(points) : null;
}

/** The edge of a document that already holds a box of the plane in its part narrowed in full, towards a side; null for none. */
export function edgeHolding(correction: Correction, warp: PlaneWarp, box: Rect, side: EdgeEase['side']): EdgeEaseOnPlane | null {
  const { k, sign } = sideAxis(side);
  const [low, length] = k === 0 ? [box.x, box.width] : [box.y, box.height];
  const inner = sign > 0 ? low : -low - length;
  return edgeEasesOnPlane(correction, warp).find(({ edge, full }) => edge.side === side && inner >= sign * full - 0.5) ?? null;
}
