import { croppedPanel, draggedMargin, panelBox, screenVectorToPlane, withPanel, type PanelSide } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** Drags a margin of the panel that the crop goes round; the crop follows. */
export function dragMargin(model: BenchModel, side: PanelSide, start: PointerFacts): Gesture | null {
  const warp = model.shown()?.warp;
  const view = model.view();
  const correction = model.committed();
  const panel = correction && croppedPanel(correction);
  const box = panel && warp && panelBox(correction, warp, panel);
  if (!view || !panel || !box) return null;
  const axis = side === 'left' || side === 'right' ? 0 : 1;
  return {
    move({ at }) {
      const by = screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]])[axis];
      model.preview((c) => withPanel(c, panel.id, { margins: draggedMargin(box, panel.margins, side, by) }));
    },
    release() {
      if (model.gestureActive()) model.commitShown();
      return false;
    },
    cancel: () => model.cancel(),
  };
}
