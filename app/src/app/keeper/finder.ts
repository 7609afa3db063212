import { inject, Injectable } from '@angular/core';
import { Store, type Action } from '@ngrx/store';
import type { Correction } from '@able-plumb/core';
import { correctionsFeature } from '../state/corrections.reducer';
import { findingActions, findingFeature, seenWith } from '../state/finding.reducer';
import type { Picture } from '../state/model';
import { selectPictureEntities } from '../state/selectors';
import { FindClient } from '../work/find-client';
import { JobKeeper } from './job-keeper';

/** Has pictures asked what they say by themselves, and keeps the answers for as long as the page is open. */
@Injectable({ providedIn: 'root' })
export class Finder {
  private readonly store = inject(Store);
  private readonly client = inject(FindClient);
  private readonly keeper = inject(JobKeeper);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);
  private readonly findings = this.store.selectSignal(findingFeature.selectFindings);

  /** With what lens and camera each picture is being asked. */
  private readonly asking = new Map<string, string>();

  /**
   * Asks pictures that were not asked yet with the lens and the camera that they have now. Their corrections have to be read.
   * @param first before all others that wait, those that wait already too
   */
  async ask(pictureIds: readonly string[], first: boolean): Promise<void> {
    const unknown = pictureIds.flatMap((id) => {
      const [picture, correction] = [this.entities()[id], this.histories()[id]?.present];
      return picture && correction && this.findings()[id]?.seenWith !== seenWith(correction) ? [{ picture, correction }] : [];
    });
    this.store.dispatch(findingActions.asked({ pictureIds: unknown.map(({ picture }) => picture.id) }));
    await Promise.all(unknown.map(({ picture, correction }) => this.askOne(picture, correction, first)));
  }

  private async askOne({ id: pictureId, name }: Picture, correction: Correction, first: boolean): Promise<void> {
    const key = seenWith(correction);
    if (this.asking.get(pictureId) === key) {
      if (first) this.client.hurry(pictureId);
      return;
    }
    this.asking.set(pictureId, key);
    // an answer to what was asked before counts no more
    const settle = (action: Action): void => {
      if (this.asking.get(pictureId) !== key) return;
      this.asking.delete(pictureId);
      this.store.dispatch(action);
    };
    try {
      const said = await this.client.ask({ pictureId, name, correction, file: () => this.keeper.original(pictureId) }, first);
      settle(said ? findingActions.found({ pictureId, seenWith: key, said }) : findingActions.left({ pictureIds: [pictureId] }));
    } catch (error) {
      settle(findingActions.failed({ pictureId, seenWith: key, why: (error as Error).message }));
    }
  }

  /** Those that wait are asked no longer; what was found stays. */
  leave(pictureIds: readonly string[]): void {
    for (const id of pictureIds) this.client.forget(id);
  }
}
