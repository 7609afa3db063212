import { ApplicationRef, computed, inject, Injectable } from '@angular/core';
import { originalOf, PlumbError, readingsOf, withStandingWishes, type PlaneWarp, type Readings } from '@able-plumb/core';
import { Passing } from '../../ui/passing';
import { BenchSwitches } from './bench-switches';
import { PictureSession, resolved, type Change } from './picture-session';
import { shownWarp, type Shown } from './shown-warp';

/** What the bench shows of the opened picture: the corrected one, what the stage draws, and the readings. */
@Injectable()
export class ShownPicture {
  private readonly app = inject(ApplicationRef);
  private readonly passing = inject(Passing);
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);

  /** While something moves the first good trim will do: with a lens the best one takes longer than a frame. */
  private readonly trim = computed(() => (this.session.gestureActive() ? 'near' : 'best'));

  readonly shown = computed<Shown | null>(() => {
    const correction = this.session.correction();
    return correction && shownWarp(correction, this.trim());
  });

  /** Whether the crop goes round a panel by itself. */
  readonly aroundPanel = computed(() => {
    const crop = this.session.correction()?.crop;
    return crop?.around === 'panel' && !crop.rect;
  });

  /** What the stage draws: the correction as shown, or the bare original. */
  readonly stageCorrection = computed(() => {
    const shown = this.shown();
    return shown && (this.switches.showsOriginal() ? originalOf(shown.correction) : shown.correction);
  });

  readonly stageWarp = computed<PlaneWarp | null>(() => {
    const correction = this.stageCorrection();
    if (!correction) return null;
    return this.switches.showsOriginal() ? shownWarp(correction).warp : (this.shown()?.warp ?? null);
  });

  /** The correction as it will be once the gesture ends: what was pointed at solved anew, where that was moved. */
  readonly settled = computed(() => {
    const [correction, before] = [this.session.correction(), this.session.settledAlready()];
    if (!correction || !before) return correction;
    const moved = correction.references !== before.references || correction.panels !== before.panels;
    return moved && this.session.gestureActive() ? withStandingWishes(resolved(correction)) : correction;
  });

  /** The warp of what it will be. */
  readonly settledShown = computed<Shown | null>(() => {
    const settled = this.settled();
    return settled === this.session.correction() ? this.shown() : settled && shownWarp(settled, this.trim());
  });

  readonly readings = computed<Readings | null>(() => {
    const settled = this.settledShown();
    return settled && readingsOf(settled.correction, settled.warp);
  });

  /** Shows a change without keeping it. */
  preview(change: Change): void {
    this.session.preview(change);
    // at once, so that the worker draws while the browser lays this frame out, and the marks are in it
    this.app.tick();
  }

  /** Makes a change that may be refused: then nothing is changed, and the reason is said. */
  attempt(change: Change, step?: string): void {
    try {
      this.session.commit(change, step);
    } catch (error) {
      this.refused(error);
    }
  }

  /** Says why something was refused; throws what is no refusal. */
  refused(error: unknown): void {
    if (!(error instanceof PlumbError)) throw error;
    // refusals that arrive after the user opened another picture are not theirs
    if (!this.session.closed) this.passing.trouble(error.message);
  }
}
