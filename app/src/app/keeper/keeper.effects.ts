import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { tap } from 'rxjs';
import { correctionActions } from '../state/correction.actions';
import { shelfActions } from '../state/shelf.actions';
import { DocumentKeeper } from './document-keeper';
import { TabChannel, type TabMessage } from './tab-channel';

/** Hands on what is done here to the shelf, and what is done in other tabs to this one. */
@Injectable()
export class KeeperEffects {
  private readonly actions = inject(Actions);
  private readonly keeper = inject(DocumentKeeper);
  private readonly tabs = inject(TabChannel);

  readonly corrections = createEffect(
    () =>
      this.actions.pipe(
        ofType(correctionActions.committed, correctionActions.undone, correctionActions.redone),
        tap(({ pictureId }) => this.keeper.keepHistory(pictureId)),
      ),
    { dispatch: false },
  );

  readonly settings = createEffect(
    () =>
      this.actions.pipe(
        ofType(shelfActions.settingsChanged),
        tap(({ change }) => this.keeper.keepSettings(change)),
      ),
    { dispatch: false },
  );

  readonly otherTabs = createEffect(() => this.tabs.heard.pipe(tap((message) => void this.hear(message))), { dispatch: false });

  private async hear(message: TabMessage): Promise<void> {
    switch (message.kind) {
      case 'history':
        return this.keeper.followHistory(message.pictureId);
      case 'job':
        return this.keeper.follow(message.jobId);
      case 'job-removed':
        return this.keeper.removedElsewhere(message.jobId);
      case 'settings':
        return this.keeper.followSettings();
      case 'profiles':
        return this.keeper.followProfiles();
      case 'hand-over':
      case 'finishing':
      case 'handed':
    }
  }
}
