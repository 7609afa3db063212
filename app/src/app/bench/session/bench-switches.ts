import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { benchActions } from '../../state/bench.actions';
import { benchFeature } from '../../state/bench.reducer';
import { jobsFeature } from '../../state/jobs.reducer';
import type { Compare, SettingOutChoice } from '../../state/model';
import { shelfActions } from '../../state/shelf.actions';
import { PictureSession } from './picture-session';

/** What of the bench is open and switched on; none of it belongs to the picture's correction. */
@Injectable()
export class BenchSwitches {
  private readonly store = inject(Store);
  private readonly session = inject(PictureSession);

  private readonly opened = this.store.selectSignal(benchFeature.selectStep);
  /** The open step; a sheet's pieces are marked as panels are. */
  readonly step = computed(() => (this.session.sheet ? 'references' : this.opened()));
  readonly marks = this.store.selectSignal(benchFeature.selectMarks);
  readonly workLight = this.store.selectSignal(benchFeature.selectWorkLight);
  readonly grid = this.store.selectSignal(benchFeature.selectGrid);
  readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  readonly originalHeld = this.store.selectSignal(benchFeature.selectOriginalHeld);
  readonly drawingOn = this.store.selectSignal(benchFeature.selectDrawingOn);
  /** Whether the stage shows the original at this moment. */
  readonly showsOriginal = computed(
    () => this.originalHeld() || ((this.step() === 'references' || this.step() === 'lens') && this.drawingOn() === 'original'),
  );

  readonly compareChoice = this.store.selectSignal(benchFeature.selectCompare);
  /** How Check compares; 'result' at every other step. */
  readonly compare = computed(() => (this.step() === 'check' && !this.originalHeld() ? this.compareChoice() : 'result'));
  /** Where the wipe stands, share of the stage's width. */
  readonly wipe = signal(0.5);
  /** Whether Check shows by how much every part was enlarged. */
  readonly stretch = signal(false);
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

  switchMarks(): void {
    this.store.dispatch(benchActions.marksSwitched());
  }

  holdOriginal(held: boolean): void {
    if (this.originalHeld() !== held) this.store.dispatch(benchActions.originalHeld({ held }));
  }

  drawOn(where: 'result' | 'original'): void {
    this.store.dispatch(benchActions.drawingOn({ on: where }));
  }

  putSide(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { sidePut: !this.settings().sidePut } }));
  }
}
