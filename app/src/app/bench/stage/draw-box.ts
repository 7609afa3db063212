import {
  distance,
  screenToPlane,
  withFillBox,
  withFillStroke,
  withKeepBox,
  withRing,
  withShim,
  type Correction,
  type PlaneWarp,
  type Rect,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';

/** Drags a rectangle over the result; let go, it makes something of the document, and the tool is laid down. */
function drawBox(
  model: BenchModel,
  start: PointerFacts,
  made: (c: Correction, warp: PlaneWarp, box: Rect) => Correction,
  after: (made: Correction) => void = () => undefined,
): Gesture | null {
  const view = model.stageView.view();
  const warp = model.stageWarp();
  if (!view || !warp) return null;
  const from = screenToPlane(view, start.at);
  const boxTo = ({ at }: PointerFacts): Rect => {
    const to = screenToPlane(model.stageView.view() ?? view, at);
    return {
      x: Math.min(from[0], to[0]),
      y: Math.min(from[1], to[1]),
      width: Math.abs(to[0] - from[0]),
      height: Math.abs(to[1] - from[1]),
    };
  };
  return {
    move: (pointer) => model.hand.boxDraft.set(boxTo(pointer)),
    release(pointer) {
      model.hand.boxDraft.set(null);
      if (distance(pointer.at, start.at) < CLICK_PX) return false;
      model.attempt((c) => made(c, warp, boxTo(pointer)));
      model.hand.takeTool('none');
      const committed = model.session.committed();
      if (committed) after(committed);
      return false;
    },
    cancel: () => model.hand.boxDraft.set(null),
  };
}

/** A keep box: the part of the picture inside is what no crop may cut. */
export const drawKeepBox = (model: BenchModel, start: PointerFacts): Gesture | null => drawBox(model, start, withKeepBox);

/** A shape ring, laid into the rectangle that is dragged; it is selected, so that what may give is asked. */
export const drawRing = (model: BenchModel, start: PointerFacts): Gesture | null =>
  drawBox(
    model,
    start,
    (c, warp, box) => withRing(c, warp, box, 'head'),
    (c) => model.hand.select(c.ease.rings.at(-1)?.id ?? null),
  );

/** About as wide as a finger, screen px. */
const BRUSH_PX = 26;

/** Where filling may copy from, or may not: a box, or a stroke of the brush. */
export function drawFillArea(model: BenchModel, start: PointerFacts): Gesture | null {
  const kind = model.hand.tool() === 'fill-only' ? 'only' : 'not';
  if (!model.hand.brush()) return drawBox(model, start, (c, warp, box) => withFillBox(c, warp, box, kind));
  const view = model.stageView.view();
  const warp = model.stageWarp();
  if (!view || !warp) return null;
  model.hand.stroke.set([screenToPlane(view, start.at)]);
  return {
    move: ({ at }) => model.hand.stroke.update((all) => [...all, screenToPlane(model.stageView.view() ?? view, at)]),
    release() {
      const points = model.hand.stroke();
      model.hand.stroke.set([]);
      model.attempt((c) => withFillStroke(c, warp, points, BRUSH_PX / view.scale, kind));
      return false;
    },
    cancel: () => model.hand.stroke.set([]),
  };
}

/** A shim's box; it is selected, so that its net can be moved. */
export const drawShim = (model: BenchModel, start: PointerFacts): Gesture | null => {
  const before = model.session.committed()?.ease.shims.length ?? 0;
  return drawBox(model, start, withShim, ({ ease }) => {
    if (ease.shims.length > before) model.hand.select(ease.shims.at(-1)?.id ?? null);
  });
};
