import { type Correction, type EdgeEase, MOST_NARROWER, type ShapeRing } from '../correction/schema';
import { composeWarp } from '../crop/compose-warp';
import { sideAxis } from '../ease/edge-easing';
import { edgeHolding, ringBox, withEdgeEase, withNewEdgeEase, withProjectionEase } from './ease';
import { keepCropInPlace } from './keep-crop-in-place';
import { withStance } from './stance';
import { PlumbError } from '../picture/failure';
import { type Point, type Rect, rectCentre } from '../picture/point';
import { type Bends, bendsOf } from '../readings/bends';
import { ringReading } from '../readings/ring';
import { type PlaneWarp, planeWarp } from '../warp/plane-warp';

/** Something that may give way so that a ring comes true, with what it comes to. */
export interface WayToEase {
  readonly kind: 'aspect' | 'edge' | 'projection';
  readonly correction: Correction;
  /** What the ring reads then. */
  readonly ratio: number;
  /** What easing bends then; null where nothing is eased. */
  readonly bends: Bends | null;
}

/**
 * What may give so that a ring comes true, or as true as it gets: the aspect of the whole picture, an edge easing that begins before the
 * ring, or the projection. Nothing for a ring without a reading; no aspect where a panel decides it; no projection on a sheet.
 */
export function waysToEase(correction: Correction, id: string): readonly WayToEase[] {
  const ring = correction.ease.rings.find((r) => r.id === id);
  if (!ring || ratioOf(correction, ring) === null) return [];
  const offers: readonly (readonly [WayToEase['kind'], () => Correction | null])[] = [
    ['edge', () => byEdge(correction, ring)],
    ['projection', () => byProjection(correction, ring)],
    ['aspect', () => byAspect(correction, ring)],
  ];
  return offers.flatMap(([kind, offer]) => {
    try {
      const next = offer();
      const ratio = next && ratioOf(next, ring);
      if (!next || !ratio) return [];
      const warp = composeWarp(next, next.picture);
      return [{ kind, correction: next, ratio, bends: bendsOf(warp, warp.crop) }];
    } catch (error) {
      if (error instanceof PlumbError) return [];
      throw error;
    }
  });
}

/** What a ring reads under a correction; null without a reading. */
function ratioOf(correction: Correction, ring: ShapeRing): number | null {
  return ringReading(correction, planeWarp(correction, correction.picture), ring, 0).ratio;
}

function byAspect(correction: Correction, ring: ShapeRing): Correction | null {
  if (correction.stance.from === 'panel') return null;
  let next = correction;
  // with easing the shape does not follow the aspect exactly
  for (let round = 0; round < 6; round += 1) {
    const ratio = ratioOf(next, ring);
    if (ratio === null) return null;
    next = withStance(next, { aspect: Math.min(10, Math.max(0.1, next.stance.aspect / ratio)) });
  }
  return next;
}

function byProjection(correction: Correction, ring: ShapeRing): Correction | null {
  if (correction.camera.flat) return null;
  const amount = bestAmount((d) => ratioOf(withProjectionEase(correction, d), ring), 1);
  return amount === null ? null : withProjectionEase(correction, amount);
}

/** How far before a ring all is narrowed in full, and how long it takes to come to that: shares of the ring, the latter at least of the crop. */
const CLEARANCE = 0.25;
const REACH_OF_RING = 2;
const REACH_OF_CROP = 0.08;

function byEdge(correction: Correction, ring: ShapeRing): Correction | null {
  const warp = composeWarp(correction, correction.picture);
  const box = ringBox(warp, ring);
  const ratio = ratioOf(correction, ring);
  if (!box || ratio === null) return null;
  for (const narrowed of ratio > 1 ? ([0, 1] as const) : ([1, 0] as const)) {
    const side = sideOf(warp.crop, box, narrowed);
    const held = edgeHolding(correction, warp, box, side);
    const placed = held ? { id: held.edge.id, correction } : placedEdge(correction, warp, warp.crop, box, side);
    if (!placed) continue;
    const eased = (amount: number): Correction => withEdgeEase(placed.correction, placed.id, { amount });
    const amount = bestAmount((a) => ratioOf(eased(a), ring), MOST_NARROWER);
    if (amount !== null && amount > 0) return keepCropInPlace(correction, eased(amount));
  }
  return null;
}

/** The side of the crop that a box lies nearer to, along x or y. */
function sideOf(crop: Rect, box: Rect, k: 0 | 1): EdgeEase['side'] {
  const beyond = rectCentre(box)[k] > rectCentre(crop)[k];
  return k === 0 ? (beyond ? 'right' : 'left') : beyond ? 'bottom' : 'top';
}

/** An edge whose part narrowed in full begins just before a box; null where its boundary has no image. */
function placedEdge(
  correction: Correction,
  warp: PlaneWarp,
  crop: Rect,
  box: Rect,
  side: EdgeEase['side'],
): { readonly id: string; readonly correction: Correction } | null {
  const { k, sign } = sideAxis(side);
  const [size, length] = k === 0 ? [box.width, crop.width] : [box.height, crop.height];
  const reach = Math.max(REACH_OF_RING * size, REACH_OF_CROP * length);
  const at: [number, number] = [...(rectCentre(box) as Point)] as [number, number];
  at[k] -= sign * (size / 2 + CLEARANCE * size + reach);
  const next = withNewEdgeEase(correction, warp, { side, amount: 0, reach }, at);
  const edge = next.ease.edges.at(-1);
  return next === correction || !edge ? null : { id: edge.id, correction: next };
}

const STEPS = 24;

/** The amount between 0 and `most` at which a ring is truest: by halving where it passes 1, else the better end. */
function bestAmount(ratioAt: (amount: number) => number | null, most: number): number | null {
  const off = (amount: number): number | null => {
    const ratio = ratioAt(amount);
    return ratio === null ? null : Math.log(ratio);
  };
  let [low, high] = [0, most];
  const [first, last] = [off(low), off(high)];
  if (first === null || last === null) return null;
  if (first * last > 0) return Math.abs(first) <= Math.abs(last) ? 0 : most;
  for (let i = 0; i < STEPS; i += 1) {
    const middle = (low + high) / 2;
    const value = off(middle);
    if (value === null) return null;
    if (value * first > 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
