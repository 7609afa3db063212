import { ApplicationRef, computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { originalOf, PlumbError, readingsOf, withStandingWishes, type PlaneWarp, type Readings } from '@able-plumb/core';
import { benchActions } from '../state/bench.actions';
import { benchFeature } from '../state/bench.reducer';
import { jobsFeature } from '../state/jobs.reducer';
import type { Compare, SettingOutChoice } from '../state/model';
import { shelfActions } from '../state/shelf.actions';
import { Passing } from '../ui/passing';
import { Found } from './session/found';
import { Hand } from './session/hand';
import { Magnet } from './session/magnet';
import { PictureSession, resolved, type Change } from './session/picture-session';
import { shownWarp, type Shown } from './session/shown-warp';
import { StageView } from './session/stage-view';

/** What the bench's parts share of one opened picture: its session, the hand, the magnet, the view, and what of it is shown. */
@Injectable()
export class BenchModel {
  private readonly store = inject(Store);
  private readonly app = inject(ApplicationRef);
  private readonly passing = inject(Passing);
  readonly session = inject(PictureSession);
  readonly hand = inject(Hand);
  readonly magnet = inject(Magnet);
  readonly stageView = inject(StageView);
  readonly found = inject(Found);

  private readonly opened = this.store.selectSignal(benchFeature.selectKnot);
  /** The open step; a sheet's pieces are marked as panels are. */
  readonly knot = computed(() => (this.session.sheet ? 'references' : this.opened()));
  readonly marks = this.store.selectSignal(benchFeature.selectMarks);
  readonly workLight = this.store.selectSignal(benchFeature.selectWorkLight);
  readonly grid = this.store.selectSignal(benchFeature.selectGrid);
  /** How Check compares; 'result' at every other step. */
  readonly compare = computed(() => (this.knot() === 'check' && !this.originalHeld() ? this.compareChoice() : 'result'));
  readonly compareChoice = this.store.selectSignal(benchFeature.selectCompare);
  /** Where the wipe stands, share of the stage's width. */
  readonly wipe = signal(0.5);
  /** Whether Check shows by how much every part was enlarged. */
  readonly stretch = signal(false);
  readonly originalHeld = this.store.selectSignal(benchFeature.selectOriginalHeld);
  readonly drawingOn = this.store.selectSignal(benchFeature.selectDrawingOn);
  readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  /** Whether the stage shows the original at this moment. */
  readonly showsOriginal = computed(
    () => this.originalHeld() || ((this.knot() === 'references' || this.knot() === 'lens') && this.drawingOn() === 'original'),
  );

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
    return shown && (this.showsOriginal() ? originalOf(shown.correction) : shown.correction);
  });

  readonly stageWarp = computed<PlaneWarp | null>(() => {
    const correction = this.stageCorrection();
    if (!correction) return null;
    return this.showsOriginal() ? shownWarp(correction).warp : (this.shown()?.warp ?? null);
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

  /** Makes a change that may be refused: then nothing is changed, and it is said why. */
  attempt(change: Change, step?: string): void {
    try {
      this.session.commit(change, step);
    } catch (error) {
      this.refused(error);
    }
  }

  /** Says why something was refused; throws what is none of that. */
  refused(error: unknown): void {
    if (!(error instanceof PlumbError)) throw error;
    // whoever is at another picture by now was not refused anything
    if (!this.session.closed) this.passing.trouble(error.message);
  }

  /** True from the moment setting-out lines are picked until something else is done: they are seen at once. */
  readonly settingOutPicked = signal(false);

  changeSettingOut(change: Partial<SettingOutChoice>): void {
    this.settingOutPicked.set(true);
    this.store.dispatch(shelfActions.settingsChanged({ change: { settingOut: { ...this.settings().settingOut, ...change } } }));
  }

  chooseGrid(percent: number): void {
    this.store.dispatch(benchActions.gridChosen({ percent }));
  }

  chooseCompare(compare: Compare): void {
    this.store.dispatch(benchActions.compared({ compare }));
  }

  switchWorkLight(): void {
    this.store.dispatch(benchActions.workLightSwitched());
  }
}
