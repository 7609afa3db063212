import { computed, DestroyRef, effect, EnvironmentInjector, inject, type ElementRef, type Signal } from '@angular/core';
import { movedView, originalOf, type Correction } from '@able-plumb/core';
import { paint } from '../../work/paint';
import { StageClient } from '../../work/stage-client';
import { BenchSwitches } from '../session/bench-switches';
import { PictureSession } from '../session/picture-session';
import { ShownPicture } from '../session/shown-picture';
import { StageView } from '../session/stage-view';

/** After this long without a move the full resolution follows, ms. */
const SETTLE_MS = 90;
/** Wider stages are drawn at half resolution while something moves, device px. */
const WIDE_PX = 1000;

/** Keeps the stage's pixels up to date; to be called where effects may be made. */
export function drawPixels(moving: Signal<boolean>, stageCanvas: Signal<ElementRef<HTMLCanvasElement>>): void {
  const [session, switches, picture] = [inject(PictureSession), inject(BenchSwitches), inject(ShownPicture)];
  const [stageView, pictures] = [inject(StageView), inject(StageClient)];
  const ready = computed(() => session.loading().state === 'ready');
  const drawn = (correction: Correction | null, onCleanup: (end: () => void) => void): void => {
    const view = stageView.view();
    const opened = session.picture();
    const workLight = switches.workLight();
    const quick = session.gestureActive() || moving();
    if (!ready() || !view || !correction || !opened) return;
    const full = window.devicePixelRatio || 1;
    const seen = switches.compare() === 'side' ? movedView(view, view.stage.width / 4) : view;
    const draw = (density: number): void => {
      const sharp = view.scale * density >= 1;
      void pictures.preview('stage', { pictureId: opened.id, correction, view: seen, density, sharp, workLight }).then((pixels) => {
        if (!pixels || session.picture()?.id !== opened.id) return;
        const canvas = stageCanvas().nativeElement;
        paint(canvas, pixels);
        pictures.painted('stage', pixels);
        canvas.dataset['drawn'] = opened.id;
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
      if (!session.gestureActive()) return;
      const correction = session.correction();
      drawn(correction && (switches.showsOriginal() ? originalOf(correction) : correction), onCleanup);
    },
    { injector: inject(EnvironmentInjector), manualCleanup: true },
  );
  inject(DestroyRef).onDestroy(() => early.destroy());
  effect((onCleanup) => {
    if (!session.gestureActive()) drawn(picture.stageCorrection(), onCleanup);
  });
  effect(() => {
    if (ready()) return;
    // never the pixels of one picture under the marks of another
    const canvas = stageCanvas().nativeElement;
    canvas.width = 0;
    delete canvas.dataset['drawn'];
  });
}
