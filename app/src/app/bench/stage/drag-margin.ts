import { croppedPanel, draggedMargin, panelBox, withPanel, type PanelSide } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { wayOnPlane, type Gesture, type PointerFacts } from './gesture';

/** Drags a margin of the panel that the crop goes round; the crop follows. */
export function dragMargin(model: BenchModel, side: PanelSide, start: PointerFacts): Gesture | null {
  const warp = model.shown()?.warp;
  const way = wayOnPlane(model, start);
  const correction = model.session.committed();
  const panel = correction && croppedPanel(correction);
  const box = panel && warp && panelBox(correction, warp, panel);
  if (!way || !panel || !box) return null;
  const axis = side === 'left' || side === 'right' ? 0 : 1;
  return {
    move({ at }) {
      const by = way(at)[axis];
      model.preview((c) => withPanel(c, panel.id, { margins: draggedMargin(box, panel.margins, side, by) }));
    },
    release() {
      if (model.session.gestureActive()) model.session.commitShown();
      return false;
    },
    cancel: () => model.session.cancel(),
  };
}
