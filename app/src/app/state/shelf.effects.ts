import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store, type Action } from '@ngrx/store';
import { concatMap, debounceTime, groupBy, mergeMap, withLatestFrom } from 'rxjs';
import { Shelf, shelfSentence } from '../shelf/shelf';
import { correctionActions } from './correction.actions';
import { correctionsFeature } from './corrections.reducer';
import { jobsFeature } from './jobs.reducer';
import { shelfActions } from './shelf.actions';

/** Committed changes wait this long for another one before they are written, ms; well below the half second that is promised. */
const QUIET_MS = 120;

/** Keeps on the shelf what is committed. */
@Injectable()
export class ShelfEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly shelf = inject(Shelf);

  readonly saveCorrections = createEffect(() =>
    this.actions.pipe(
      ofType(correctionActions.committed, correctionActions.undone, correctionActions.redone),
      groupBy(({ pictureId }) => pictureId),
      mergeMap((ofPicture) =>
        ofPicture.pipe(
          debounceTime(QUIET_MS),
          withLatestFrom(this.store.select(correctionsFeature.selectHistories)),
          concatMap(([{ pictureId }, histories]) => {
            const history = histories[pictureId];
            return history ? this.keep(() => this.shelf.saveHistory(pictureId, history)) : [];
          }),
        ),
      ),
    ),
  );

  readonly saveSettings = createEffect(() =>
    this.actions.pipe(
      ofType(shelfActions.settingsChanged),
      debounceTime(QUIET_MS),
      withLatestFrom(this.store.select(jobsFeature.selectSettings)),
      concatMap(([, settings]) => this.keep(() => this.shelf.saveSettings(settings))),
    ),
  );

  private async keep(write: () => Promise<void>): Promise<Action> {
    this.store.dispatch(shelfActions.savingBegan());
    try {
      await write();
      return shelfActions.savingEnded();
    } catch (error) {
      return shelfActions.savingFailed({ message: shelfSentence(error) });
    }
  }
}
