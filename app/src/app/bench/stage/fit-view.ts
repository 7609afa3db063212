import { effect, inject, untracked, type Signal } from '@angular/core';
import { fitCloseUp, fitOutline, type Size } from '@able-plumb/core';
import { BenchSwitches } from '../session/bench-switches';
import { Hand } from '../session/hand';
import { PictureSession } from '../session/picture-session';
import { ShownPicture } from '../session/shown-picture';
import { StageView } from '../session/stage-view';
import { toolOf } from '../tools';

/**
 * Fits the view when the stage or the picture jumps, unless the user has zoomed or holds something. To be called where effects may be made.
 * @param size of the stage, screen px; null while it is not known
 */
export function keepFitted(size: Signal<Size | null>): void {
  const [session, hand, picture] = [inject(PictureSession), inject(Hand), inject(ShownPicture)];
  const [switches, stageView] = [inject(BenchSwitches), inject(StageView)];
  effect(() => {
    const stage = size();
    const warp = picture.stageWarp();
    const crop = picture.shown()?.warp.crop ?? null;
    const correction = picture.stageCorrection();
    stageView.fitAsked();
    const lasting = session.gestureActive() || hand.drawing.line() !== null;
    if (!stage || !warp || !correction || stage.width < 10) return;
    const { flipX, flipY } = correction.stance;
    const old = untracked(stageView.view);
    if (old && (lasting || untracked(stageView.viewHeld))) {
      if (old.stage.width !== stage.width || old.stage.height !== stage.height || old.mirrorX !== flipX || old.mirrorY !== flipY)
        stageView.view.set({ ...old, stage, mirrorX: flipX, mirrorY: flipY });
      return;
    }
    const shownCrop = switches.showsOriginal() ? null : crop;
    if (switches.compare() === 'side') {
      // both halves show the same part at the same size
      const half = { width: stage.width / 2, height: stage.height };
      stageView.view.set({ ...fitOutline(warp.outline, shownCrop, half, flipX, flipY), stage });
      return;
    }
    const closeUp = shownCrop && picture.aroundPanel() && !toolOf(hand.tool())?.wholePicture;
    stageView.view.set(closeUp ? fitCloseUp(shownCrop, stage, flipX, flipY) : fitOutline(warp.outline, shownCrop, stage, flipX, flipY));
  });
}
