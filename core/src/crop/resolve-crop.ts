import type { Correction } from '../correction/schema';
import { PlumbError } from '../picture/failure';
import { boundsOf } from '../picture/polygon';
import { rectAround, rectCentre, rectCorners, type Rect } from '../picture/point';
import { normaliseQuarterTurns } from '../picture/quarter-turns';
import { turnedAbout, turnedRect } from '../picture/turned-rect';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';
import { holdsRect, keepBoxesOnPlane, SLACK_PX } from './keep-boxes';
import { pointedAt } from './lines-in-crop';
import { halfWidthAbout, isClear } from './inside-outline';
import { largestRectangle } from './largest-rectangle';
import { croppedPanel, panelBox, withMargins } from './panel-crop';
import { ratioOf } from './proportions';

/** The crop asked for cannot be had; the message says what would make it possible. */
export class CropImpossibleError extends PlumbError {
  constructor(message: string, remedy: string) {
    super('crop-impossible', message, remedy);
    this.name = 'CropImpossibleError';
  }
}

/** Slack when a typed or dragged rectangle is judged clear, px: an empty pixel's centre is half a pixel away from it. */
const CLEAR_SLACK_PX = 0.05;

/** A crop must hold a pixel; arithmetic noise is allowed for. */
const SMALLEST_PX = 1 - 1e-3;

/** How well a trim is found: the best there is, or the first good one while something moves, which takes a sixth of the time where a lens bends the sides. */
export type Trim = 'best' | 'near';

/**
 * The rectangle that is exported, on the plane, px: what the user asked for when it can be had, re-fitted when it must stay clear and
 * would not, or computed from the crop's three answers. Never written back into the document.
 *
 * @throws CropImpossibleError with the way out
 */
export function resolveCrop(correction: Correction, warp: PlaneWarp, trim: Trim = 'best'): Rect {
  const { crop } = correction;
  const outline = warp.outline;
  if (outline.length < 3)
    throw new CropImpossibleError('Nothing of the picture can be seen from this stance.', 'Take back some tilt or swing.');
  if (crop.rect) return keptClear(correction, warp, crop.rect);
  if (crop.around === 'panel') return panelCrop(correction, warp);
  const ratio = ratioOf(crop.ratio, warp.turnedSize);
  if (crop.edges === 'clear') return clearTrim(correction, warp, ratio, trim);
  if (crop.around === 'frame') {
    const middle = toPlane(warp, [warp.pictureSize.width / 2, warp.pictureSize.height / 2]) ?? rectCentre(boundsOf(outline));
    return withRatio(
      rectAround(middle, warp.turnedSize.width, warp.turnedSize.height),
      ratio === undefined || crop.ratio === 'as-taken' ? undefined : ratio,
    );
  }
  const bounds = boundsOf(outline);
  return crop.ratio === 'as-taken' || ratio === undefined ? bounds : around(bounds, ratio);
}

/** A rectangle that was asked for, shrunk about its centre when it must stay clear and would not. */
function keptClear({ crop }: Correction, { outline }: PlaneWarp, rect: Rect): Rect {
  if (crop.edges !== 'clear' || isClear(outline, rect, CLEAR_SLACK_PX)) return rect;
  const centre = rectCentre(rect);
  const ratio = rect.width / rect.height;
  const half = halfWidthAbout(outline, centre, ratio);
  if (half < 0.5) {
    throw new CropImpossibleError(
      'The crop has no place clear of empty edges about its centre.',
      'Move the crop onto the picture, keep the empty edges, or trim again.',
    );
  }
  return rectAround(centre, Math.min(rect.width, 2 * half), Math.min(rect.height, (2 * half) / ratio));
}

/** The first used panel on the plane with its margins. */
function panelCrop(correction: Correction, warp: PlaneWarp): Rect {
  const panel = croppedPanel(correction);
  const box = panel && panelBox(correction, warp, panel);
  if (!panel || !box) throw new CropImpossibleError('There is no panel to crop to.', 'Mark a panel, or choose another trim.');
  const rect = withMargins(box, panel.margins);
  if (!(rect.width >= 1 && rect.height >= 1))
    throw new CropImpossibleError('The margins leave nothing of the panel.', 'Make them smaller.');
  return keptClear(correction, warp, rect);
}

/**
 * The trim that is clear of empty edges. It is looked for as the picture lies before its quarter turns: where several are equally good, the
 * turned picture then gets the turned one.
 */
function clearTrim(correction: Correction, warp: PlaneWarp, seenRatio: number | undefined, trim: Trim): Rect {
  const { crop, stance } = correction;
  const odd = stance.quarterTurns % 2 === 1;
  const back = normaliseQuarterTurns(-stance.quarterTurns);
  const outline = warp.outline.map((p) => turnedAbout(p, back));
  const ratio = odd && seenRatio !== undefined ? 1 / seenRatio : seenRatio;
  const contain = crop.around === 'keep' ? keepBoxesOnPlane(correction, warp).map((box) => turnedRect(box, back)) : [];
  const { width, height } = warp.pictureSize;
  const shownMiddle = toPlane(warp, [width / 2, height / 2]);
  const middle = shownMiddle ? turnedAbout(shownMiddle, back) : rectCentre(boundsOf(outline));
  let rect: Rect | null = null;
  if (crop.around === 'frame') rect = largestRectangle(outline, { ratio, centre: middle });
  // a fisheye made rectilinear is a star whose arms are vast and empty of detail: the trim stays about its middle
  else if (contain.length === 0 && Number.isFinite(warp.lens.limitRadiusPx)) {
    const shape = ratio ?? width / height;
    const half = halfWidthAbout(outline, middle, shape);
    rect = rectAround(middle, 2 * half, (2 * half) / shape);
  } else {
    const near = trim === 'near';
    // what was pointed at stays in the picture where there is a crop that holds it
    const lines = crop.around !== 'lines' ? [] : pointedAt(correction, warp).map(({ box }) => turnedRect(box, back));
    rect = largestRectangle(outline, { ratio, contain, near });
    // free proportions between bent sides have no one best rectangle around lines: there the plain one stays
    const settled = ratio !== undefined || (warp.lens.straight && warp.ease === null);
    if (rect && settled && !lines.every((box) => holdsRect(rect as Rect, box)))
      rect = largestRectangle(outline, { ratio, contain: [within(boundsOf(lines.flatMap(rectCorners)))], near }) ?? rect;
  }
  if (!rect || rect.width < SMALLEST_PX || rect.height < SMALLEST_PX) {
    throw new CropImpossibleError(
      contain.length > 0 ? 'No crop clear of empty edges holds the keep box.' : 'No crop clear of empty edges is left.',
      'Keep the empty edges, choose other proportions, or hold the correction back.',
    );
  }
  return turnedRect(rect, stance.quarterTurns);
}

/** The part of a rectangle that must be held for the whole to count as held: what ends on the picture's border is not cut by noise. */
const within = ({ x, y, width, height }: Rect): Rect => ({
  x: x + Math.min(SLACK_PX, width / 2),
  y: y + Math.min(SLACK_PX, height / 2),
  width: Math.max(0, width - 2 * SLACK_PX),
  height: Math.max(0, height - 2 * SLACK_PX),
});

/** Largest rectangle of a ratio inside `rect`, same centre. */
function withRatio(rect: Rect, ratio: number | undefined): Rect {
  if (ratio === undefined) return rect;
  const width = Math.min(rect.width, rect.height * ratio);
  return rectAround(rectCentre(rect), width, width / ratio);
}

/** Smallest rectangle of a ratio around `rect`, same centre. */
function around(rect: Rect, ratio: number): Rect {
  const width = Math.max(rect.width, rect.height * ratio);
  return rectAround(rectCentre(rect), width, width / ratio);
}
