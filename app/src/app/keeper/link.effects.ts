import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { concatMap, filter, from, map, mergeMap } from 'rxjs';
import type { Correction } from '@able-plumb/core';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature } from '../state/corrections.reducer';
import { selectPictureEntities } from '../state/selectors';
import { DocumentKeeper } from './document-keeper';

/** Pictures of one linked set have one correction: what is committed for one is committed for the others, each with an undo step of its own. */
@Injectable()
export class LinkEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly keeper = inject(DocumentKeeper);
  private readonly pictures = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);

  readonly mirror = createEffect(() =>
    this.actions.pipe(
      ofType(correctionActions.committed, correctionActions.undone, correctionActions.redone),
      map((action) => ({
        ...('step' in action ? { step: action.step } : {}),
        pictureId: action.pictureId,
        others: this.othersOf(action.pictureId),
      })),
      filter(({ others }) => others.length > 0),
      concatMap(({ pictureId, others, step }) => from(this.mirrored(pictureId, others, step)).pipe(mergeMap((actions) => actions))),
    ),
  );

  private othersOf(pictureId: string): string[] {
    const set = this.pictures()[pictureId]?.set;
    if (set === undefined) return [];
    return Object.values(this.pictures()).flatMap((p) => (p && p.set === set && p.id !== pictureId ? [p.id] : []));
  }

  private async mirrored(
    pictureId: string,
    others: readonly string[],
    step: string | undefined,
  ): Promise<ReturnType<typeof correctionActions.committed>[]> {
    await this.keeper.loadHistories(others);
    const source = this.histories()[pictureId]?.present;
    if (!source) return [];
    return others.flatMap((id) => {
      const present = this.histories()[id]?.present;
      if (!present || sameBut(present, source)) return [];
      return [correctionActions.committed({ pictureId: id, correction: { ...source, picture: present.picture }, step })];
    });
  }
}

/** Whether two corrections differ in nothing but the picture they are for. */
const sameBut = (a: Correction, b: Correction): boolean => JSON.stringify({ ...a, picture: 0 }) === JSON.stringify({ ...b, picture: 0 });
