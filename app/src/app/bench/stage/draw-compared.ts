import { effect, inject, type ElementRef, type Signal } from '@angular/core';
import { movedView, originalOf } from '@able-plumb/core';
import { paint } from '../../work/paint';
import { StageClient } from '../../work/stage-client';
import { BenchSwitches } from '../session/bench-switches';
import { PictureSession } from '../session/picture-session';
import { ShownPicture } from '../session/shown-picture';
import { StageView } from '../session/stage-view';

/**
 * Keeps the original's pixels for comparing up to date: in register with the result, whose plane has the picture's middle for its origin
 * as the original's has, at the same scale. To be called where effects may be made.
 */
export function drawCompared(canvas: Signal<ElementRef<HTMLCanvasElement> | undefined>): void {
  const [session, switches, shownPicture] = [inject(PictureSession), inject(BenchSwitches), inject(ShownPicture)];
  const [stageView, pictures] = [inject(StageView), inject(StageClient)];
  effect(() => {
    const target = canvas()?.nativeElement;
    const view = stageView.view();
    const shown = shownPicture.shown();
    const picture = session.picture();
    const compare = switches.compare();
    if (!target || !view || !shown || !picture || compare === 'result' || session.loading().state !== 'ready') return;
    const density = window.devicePixelRatio || 1;
    const request = {
      pictureId: picture.id,
      correction: originalOf(shown.correction),
      view: compare === 'side' ? movedView(view, -view.stage.width / 4) : view,
      density,
      sharp: view.scale * density >= 1,
      workLight: switches.workLight(),
    };
    void pictures.preview('compare', request).then((pixels) => {
      if (!pixels || session.picture()?.id !== picture.id) return;
      paint(target, pixels);
      target.dataset['drawn'] = picture.id;
    });
  });
}
