import { effect, type ElementRef, type Signal } from '@angular/core';
import { movedView, originalOf } from '@able-plumb/core';
import { paint } from '../../work/paint';
import type { StageClient } from '../../work/stage-client';
import type { BenchModel } from '../bench-model';

/**
 * Keeps the original's pixels for comparing up to date: in register with the result, whose plane has the picture's middle for its origin
 * as the original's has, at the same scale. To be called where effects may be made.
 */
export function drawCompared(model: BenchModel, pictures: StageClient, canvas: Signal<ElementRef<HTMLCanvasElement> | undefined>): void {
  effect(() => {
    const target = canvas()?.nativeElement;
    const view = model.stageView.view();
    const shown = model.shown();
    const picture = model.session.picture();
    const compare = model.compare();
    if (!target || !view || !shown || !picture || compare === 'result' || model.session.loading().state !== 'ready') return;
    const density = window.devicePixelRatio || 1;
    const request = {
      pictureId: picture.id,
      correction: originalOf(shown.correction),
      view: compare === 'side' ? movedView(view, -view.stage.width / 4) : view,
      density,
      sharp: view.scale * density >= 1,
      workLight: model.workLight(),
    };
    void pictures.preview('compare', request).then((pixels) => {
      if (!pixels || model.session.picture()?.id !== picture.id) return;
      paint(target, pixels);
      target.dataset['drawn'] = picture.id;
    });
  });
}
