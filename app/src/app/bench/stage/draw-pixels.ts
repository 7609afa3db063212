import { computed, DestroyRef, effect, EnvironmentInjector, inject, type ElementRef, type Signal } from '@angular/core';
import { movedView, originalOf, type Correction } from '@able-plumb/core';
import { paint } from '../../work/paint';
import type { StageClient } from '../../work/stage-client';
import type { BenchModel } from '../bench-model';

export const LOUPE_PX = 168;
export const LOUPE_TIMES = 8;
/** After this long without a move the full resolution follows, ms. */
const SETTLE_MS = 90;
/** Wider stages are drawn at half resolution while something moves, device px. */
const WIDE_PX = 1000;

/** Keeps the stage's and the loupe's pixels up to date; to be called where effects may be made. */
export function drawPixels(
  model: BenchModel,
  pictures: StageClient,
  moving: Signal<boolean>,
  stageCanvas: Signal<ElementRef<HTMLCanvasElement>>,
  loupeCanvas: Signal<ElementRef<HTMLCanvasElement> | undefined>,
): void {
  const ready = computed(() => model.session.loading().state === 'ready');
  const drawn = (correction: Correction | null, onCleanup: (end: () => void) => void): void => {
    const view = model.stageView.view();
    const picture = model.session.picture();
    const workLight = model.workLight();
    const quick = model.session.gestureActive() || moving();
    if (!ready() || !view || !correction || !picture) return;
    const full = window.devicePixelRatio || 1;
    const seen = model.compare() === 'side' ? movedView(view, view.stage.width / 4) : view;
    const draw = (density: number): void => {
      const sharp = view.scale * density >= 1;
      void pictures.preview('stage', { pictureId: picture.id, correction, view: seen, density, sharp, workLight }).then((pixels) => {
        if (!pixels || model.session.picture()?.id !== picture.id) return;
        const canvas = stageCanvas().nativeElement;
        paint(canvas, pixels);
        pictures.painted('stage', pixels);
        canvas.dataset['drawn'] = picture.id;
      });
    };
    draw(quick && view.stage.width * full > WIDE_PX ? full / 2 : full);
    if (!quick) return;
    const timer = setTimeout(() => draw(full), SETTLE_MS);
    onCleanup(() => clearTimeout(timer));
  };
  // while something is held the view stays, and a draft needs no trim: it is asked for before the page composes its marks, and drawn meanwhile
  const early = effect(
    (onCleanup) => {
      if (!model.session.gestureActive()) return;
      const correction = model.session.correction();
      drawn(correction && (model.showsOriginal() ? originalOf(correction) : correction), onCleanup);
    },
    { injector: inject(EnvironmentInjector), manualCleanup: true },
  );
  inject(DestroyRef).onDestroy(() => early.destroy());
  effect((onCleanup) => {
    if (!model.session.gestureActive()) drawn(model.stageCorrection(), onCleanup);
  });
  effect(() => {
    if (ready()) return;
    // never the pixels of one picture under the marks of another
    const canvas = stageCanvas().nativeElement;
    canvas.width = 0;
    delete canvas.dataset['drawn'];
  });
  effect(() => {
    const loupe = model.hand.loupe();
    const view = model.stageView.view();
    const correction = model.stageCorrection();
    const picture = model.session.picture();
    const target = loupeCanvas()?.nativeElement;
    if (!loupe || !view || !correction || !picture || !target) return;
    const close = { ...view, stage: { width: LOUPE_PX, height: LOUPE_PX }, centre: loupe.at, scale: LOUPE_TIMES };
    const request = { pictureId: picture.id, correction, view: close, density: 1, sharp: true, workLight: model.workLight() };
    void pictures.preview('loupe', request).then((pixels) => {
      if (pixels) paint(target, pixels);
    });
  });
}
