import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { concatMap, from, mergeMap } from 'rxjs';
import { followedPiece } from '@able-plumb/core';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature } from '../state/corrections.reducer';
import { selectPictureEntities } from '../state/selectors';
import { DocumentKeeper } from './document-keeper';
import { SheetKeeper } from './sheet-keeper';

/** Pictures made of a sheet's pieces follow their outlines, each with an undo step of its own, until a hand changes them. */
@Injectable()
export class SheetEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly sheets = inject(SheetKeeper);
  private readonly keeper = inject(DocumentKeeper);
  private readonly pictures = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);

  readonly follow = createEffect(() =>
    this.actions.pipe(
      ofType(correctionActions.committed, correctionActions.undone, correctionActions.redone),
      concatMap((action) => from(this.followed(action.pictureId, 'step' in action ? action.step : undefined)).pipe(mergeMap((all) => all))),
    ),
  );

  private async followed(id: string, step: string | undefined): Promise<ReturnType<typeof correctionActions.committed>[]> {
    const picture = this.pictures()[id];
    if (!picture || !this.histories()[id]?.present.sheet) return [];
    const others = this.sheets.sharing(picture).map((p) => p.id);
    await this.keeper.loadHistories(others);
    const sheet = this.histories()[id]?.present.sheet;
    if (!sheet) return [];
    return others.flatMap((pictureId) => {
      const own = this.histories()[pictureId]?.present;
      const next = own?.piece ? followedPiece(own, sheet) : null;
      return next && next !== own ? [correctionActions.committed({ pictureId, correction: next, step })] : [];
    });
  }
}
