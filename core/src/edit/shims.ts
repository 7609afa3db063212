import { FEWEST_CROSSINGS, MOST_CROSSINGS, type Correction, type Shim, type ShimHold } from '../correction/schema';
import { placedShim } from '../ease/shim-map';
import { crossingShare } from '../ease/shim-spline';
import { PlumbError } from '../picture/failure';
import { distance, rectCentre, type Point, type Rect } from '../picture/point';
import { planeWarp, toPicture, toPlane, type PlaneWarp } from '../warp/plane-warp';
import { nextId } from './next-id';

/** A shim's box must hold its net, px. */
const SMALLEST_BOX_PX = 24;

const withShims = (correction: Correction, shims: readonly Shim[]): Correction => ({
  ...correction,
  ease: { ...correction.ease, shims: [...shims] },
});

/** The document with one shim changed. */
export const withShimChanged = (correction: Correction, id: string, change: Partial<Shim>): Correction =>
  withShims(
    correction,
    correction.ease.shims.map((s) => (s.id === id ? { ...s, ...change } : s)),
  );

/** The document without one shim. */
export const withoutShim = (correction: Correction, id: string): Correction =>
  withShims(
    correction,
    correction.ease.shims.filter((s) => s.id !== id),
  );

export const shimOf = (correction: Correction, id: string): Shim | null => correction.ease.shims.find((s) => s.id === id) ?? null;

/** The chain as it is before a shim acts. */
export const warpBeforeShim = (correction: Correction, id: string): PlaneWarp => {
  const { shims } = correction.ease;
  return planeWarp(
    withShims(
      correction,
      shims.slice(
        0,
        shims.findIndex((s) => s.id === id),
      ),
    ),
    correction.picture,
  );
};

/**
 * The document with a shim more, over a box of the plane that is shown.
 *
 * @throws PlumbError for a box too small for a net, and for one that lies outside the picture
 */
export function withShim(correction: Correction, warp: PlaneWarp, box: Rect): Correction {
  if (Math.min(box.width, box.height) < SMALLEST_BOX_PX)
    throw new PlumbError('shim-small', `A shim needs a box of ${SMALLEST_BOX_PX} px or more a side.`, 'Draw it larger, or zoom in.');
  const at = pictureUnder(warp, box);
  const shim: Shim = {
    id: nextId('shim', correction.ease.shims),
    at: [...at],
    width: box.width,
    height: box.height,
    crossings: 6,
    used: true,
    holds: [],
    lines: [],
  };
  return withShims(correction, [...correction.ease.shims, shim]);
}

/** The picture point in the middle of a box of the plane. */
function pictureUnder(warp: PlaneWarp, box: Rect): Point {
  const at = toPicture(warp, rectCentre(box));
  const { width, height } = warp.pictureSize;
  if (!at || at[0] < 0 || at[1] < 0 || at[0] > width || at[1] > height)
    throw new PlumbError(
      'shim-outside',
      'The middle of this shim would lie outside the picture.',
      'Draw it over what is to be moved; nothing was changed.',
    );
  return at;
}

/** The document with a shim's box elsewhere on its plane; what it holds stays where it is. Throws as {@link withShim} does. */
export function withShimBox(correction: Correction, id: string, box: Rect): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  const width = Math.max(SMALLEST_BOX_PX, box.width);
  const height = Math.max(SMALLEST_BOX_PX, box.height);
  const warp = warpBeforeShim(correction, id);
  const at = pictureUnder(warp, { ...box, width, height });
  const [was, is] = [toPlane(warp, shim.at), toPlane(warp, at)];
  if (!was || !is) return correction;
  const [dx, dy] = [was[0] - is[0], was[1] - is[1]];
  const kept = ([x, y]: Point): [number, number] => [x + dx, y + dy];
  const holds = shim.holds.map((h) => ({ ...h, from: kept(h.from), to: kept(h.to) }));
  return withShimChanged(correction, id, { at: [...at], width, height, holds });
}

/** A corner of a shim's box, moved by a way on the plane; the one across stays. */
export function withShimCorner(correction: Correction, id: string, corner: 0 | 1 | 2 | 3, [dx, dy]: Point): Correction {
  const shim = shimOf(correction, id);
  const middle = shim && toPlane(warpBeforeShim(correction, id), shim.at);
  if (!middle) return correction;
  const left = corner === 0 || corner === 3;
  const top = corner < 2;
  const width = Math.max(SMALLEST_BOX_PX, shim.width + (left ? -dx : dx));
  const height = Math.max(SMALLEST_BOX_PX, shim.height + (top ? -dy : dy));
  return withShimBox(correction, id, {
    x: left ? middle[0] + shim.width / 2 - width : middle[0] - shim.width / 2,
    y: top ? middle[1] + shim.height / 2 - height : middle[1] - shim.height / 2,
    width,
    height,
  });
}

/** The document with a shim's net finer (+1) or coarser (-1); what is held stays held. */
export function withShimNet(correction: Correction, id: string, by: number): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  return withShimChanged(correction, id, { crossings: Math.min(MOST_CROSSINGS, Math.max(FEWEST_CROSSINGS, shim.crossings + by)) });
}

/** Positions nearer than this are one place, px. */
export const SAME_PLACE_PX = 0.01;

/** Where a crossing lies in its box when nothing moves it, px from the middle. */
export const crossingAt = ({ width, height, crossings }: Shim, column: number, row: number): Point => [
  (crossingShare(column, crossings) - 0.5) * width,
  (crossingShare(row, crossings) - 0.5) * height,
];

/** What holds a place of a shim; null for nothing. */
export const holdAt = ({ holds }: Shim, from: Point): ShimHold | null => holds.find((h) => distance(h.from, from) < SAME_PLACE_PX) ?? null;

/** A document after places of a shim were moved, and whether they were stopped before they would fold. */
export interface MovedPlaces {
  readonly correction: Correction;
  readonly stopped: boolean;
}

const HALVINGS = 9;

/**
 * The document with places of a shim moved together, as far as nothing folds.
 *
 * @param places as they lie when nothing moves them, px from the middle of the box
 * @param by px on the shim's plane
 */
export function withPlacesMoved(correction: Correction, id: string, places: readonly Point[], by: Point): MovedPlaces {
  const shim = shimOf(correction, id);
  const warp = warpBeforeShim(correction, id);
  const onPlane = (p: Point): Point | null => toPlane(warp, p);
  const now = shim && placedShim({ ...shim, used: true }, onPlane);
  if (!shim || !now) return { correction, stopped: false };
  const [cx, cy] = rectCentre(now.box);
  const out = new Float64Array(2);
  const starts = places.map((from): Point => {
    const hold = holdAt(shim, from);
    if (hold) return hold.to;
    now.forward(cx + from[0], cy + from[1], out);
    return [(out[0] as number) - cx, (out[1] as number) - cy];
  });
  const inBox = ([x, y]: Point): boolean => Math.abs(x) < shim.width / 2 && Math.abs(y) < shim.height / 2;
  const moved = (share: number): Shim | null => {
    const targets = starts.map(([x, y]): Point => [x + by[0] * share, y + by[1] * share]);
    if (!targets.every(inBox)) return null;
    return {
      ...shim,
      holds: places.reduce<ShimHold[]>((holds, from, i) => held(holds, from, targets[i] as Point, false), shim.holds),
    };
  };
  const least = Math.min(1, now.share) - 1e-6;
  const fits = (next: Shim | null): next is Shim => next !== null && (placedShim({ ...next, used: true }, onPlane)?.share ?? 0) >= least;
  const whole = moved(1);
  if (fits(whole)) return { correction: withShimChanged(correction, id, whole), stopped: false };
  let [low, high] = [0, 1];
  for (let i = 0; i < HALVINGS; i += 1) {
    const middle = (low + high) / 2;
    if (fits(moved(middle))) low = middle;
    else high = middle;
  }
  const most = moved(low);
  return { correction: most && low > 0 ? withShimChanged(correction, id, most) : correction, stopped: true };
}

/** Holds with a place at another; one that is there stays what it is. */
function held(holds: readonly ShimHold[], from: Point, to: Point, nail: boolean): ShimHold[] {
  const known = holds.find((h) => distance(h.from, from) < SAME_PLACE_PX);
  if (known) return holds.map((h) => (h === known ? { ...h, to: [...to], nail: h.nail || nail } : h));
  return [...holds, { id: nextId('hold', holds), from: [...from], to: [...to], nail }];
}

/** The document with a place nailed where it is now, or let go again where it was nailed. */
export function withNailSwitched(correction: Correction, id: string, from: Point): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  const known = holdAt(shim, from);
  // nothing jumps: let go of, it is as if a hand had moved it there
  if (known?.nail) return withShimChanged(correction, id, { holds: shim.holds.map((h) => (h === known ? { ...h, nail: false } : h)) });
  const warp = warpBeforeShim(correction, id);
  const now = placedShim({ ...shim, used: true }, (p) => toPlane(warp, p));
  if (!now) return correction;
  const [cx, cy] = rectCentre(now.box);
  const out = new Float64Array(2);
  now.forward(cx + from[0], cy + from[1], out);
  return withShimChanged(correction, id, { holds: held(shim.holds, from, [(out[0] as number) - cx, (out[1] as number) - cy], true) });
}

/** The document with a place of a shim free again. */
export const withoutHold = (correction: Correction, id: string, from: Point): Correction => {
  const shim = shimOf(correction, id);
  return shim ? withShimChanged(correction, id, { holds: shim.holds.filter((h) => distance(h.from, from) >= SAME_PLACE_PX) }) : correction;
};
