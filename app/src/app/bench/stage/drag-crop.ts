import {
  cropHandles,
  cropMagnet,
  degreesText,
  distance,
  dragCrop,
  freshCrop,
  magnetStep,
  nearestHandle,
  planeToScreen,
  ratioOf,
  rectCentre,
  screenToPlane,
  turnedByDeg,
  withCropRect,
  withRollAdjust,
  type CropPart,
  type Rect,
  type View,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { CLICK_PX, wayOnPlane, type Gesture, type PointerFacts } from './gesture';

/** How far the magnet reaches, screen px. */
const MAGNET_PX = 7;

/** Beside a corner, out to this many screen px, the crop is turned. */
const TURN_REACH_PX = 56;

/** What a press on the stage would do to the crop. */
export type CropIntent = { readonly kind: 'part'; readonly part: CropPart } | { readonly kind: 'turn' } | { readonly kind: 'fresh' };

/** Handles win over the inside, turning beside a corner over a fresh crop. */
export function cropIntent(view: View, crop: Rect, pointer: PointerFacts): CropIntent {
  const handles = cropHandles(crop).map(({ part, at }) => ({ id: part, at: planeToScreen(view, at) }));
  const near = nearestHandle(handles, pointer.at, pointer.reach);
  if (near) return { kind: 'part', part: near.id };
  const [x, y] = screenToPlane(view, pointer.at);
  if (x > crop.x && y > crop.y && x < crop.x + crop.width && y < crop.y + crop.height) return { kind: 'part', part: 'inside' };
  const corner = handles.filter(({ id }) => id.length === 2).some(({ at }) => distance(at, pointer.at) < TURN_REACH_PX);
  return corner ? { kind: 'turn' } : { kind: 'fresh' };
}

/** One gesture on the crop. */
export function beginCropGesture(model: BenchModel, start: PointerFacts): Gesture | null {
  const view = model.stageView.view();
  const warp = model.shown()?.warp;
  const correction = model.session.committed();
  if (!view || !warp || !correction) return null;
  const { crop } = warp;
  const held = ratioOf(correction.crop.ratio, warp.turnedSize);
  const intent = cropIntent(view, crop, start);
  const magnet = cropMagnet(correction, warp);
  const from = screenToPlane(view, start.at);
  const way = wayOnPlane(model, start);
  const show = (pointer: PointerFacts): boolean => {
    const now = model.stageView.view() ?? view;
    switch (intent.kind) {
      case 'part': {
        const ratio = held ?? (pointer.shift && intent.part !== 'inside' ? crop.width / crop.height : undefined);
        const options = { ratio, fromCentre: pointer.alt };
        const by = way?.(pointer.at) ?? [0, 0];
        const free = dragCrop(crop, intent.part, by, options);
        const step =
          model.settings().magnet && !model.magnet.letGo() ? magnetStep(free, intent.part, magnet, MAGNET_PX / now.scale) : [0, 0];
        const rect = dragCrop(crop, intent.part, [by[0] + (step[0] ?? 0), by[1] + (step[1] ?? 0)], options);
        model.preview((c) => withCropRect(c, rect));
        return true;
      }
      case 'turn': {
        const centre = rectCentre(crop);
        const by = turnedByDeg(centre, from, screenToPlane(now, pointer.at));
        const roll = correction.stance.adjust.roll + by;
        model.preview((c) => withRollAdjust(c, roll));
        model.hand.turning.set({ words: `${degreesText(by)} ${by > 0 ? 'clockwise' : 'anticlockwise'}`, at: pointer.at });
        return true;
      }
      case 'fresh': {
        const rect = freshCrop(from, screenToPlane(now, pointer.at), held);
        if (rect) model.preview((c) => withCropRect(c, rect));
        return rect !== null;
      }
    }
  };
  let moved = false;
  return {
    move(pointer) {
      if (moved || distance(pointer.at, start.at) >= CLICK_PX) moved = show(pointer) || moved;
    },
    release() {
      model.hand.turning.set(null);
      if (moved) model.session.commitShown();
      return false;
    },
    cancel() {
      model.hand.turning.set(null);
      model.session.cancel();
    },
  };
}
