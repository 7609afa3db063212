import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { correctionsFeature } from '../state/corrections.reducer';
import { findingActions, findingFeature, seenWith } from '../state/finding.reducer';
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

  /**
   * Asks pictures that were not asked yet with the lens and the camera that they have now. Their corrections have to be read.
   * @param first before all others that wait
   */
  ask(pictureIds: readonly string[], first: boolean): Promise<void> {
    const unknown = pictureIds.flatMap((id) => {
      const [picture, correction] = [this.entities()[id], this.histories()[id]?.present];
      return picture && correction && this.findings()[id]?.seenWith !== seenWith(correction) ? [{ picture, correction }] : [];
    });
    this.store.dispatch(findingActions.asked({ pictureIds: unknown.map(({ picture }) => picture.id) }));
    const answers = unknown.map(async ({ picture, correction }) => {
      const [pictureId, key] = [picture.id, seenWith(correction)];
      try {
        const file = (): Promise<Blob | null> => this.keeper.original(pictureId);
        const said = await this.client.ask({ pictureId, name: picture.name, correction, file }, first);
        this.store.dispatch(
          said ? findingActions.found({ pictureId, seenWith: key, said }) : findingActions.left({ pictureIds: [pictureId] }),
        );
      } catch (error) {
        this.store.dispatch(findingActions.failed({ pictureId, seenWith: key, why: (error as Error).message }));
      }
    });
    return Promise.all(answers).then(() => undefined);
  }

  /** Those that wait are asked no longer; what was found stays. */
  leave(pictureIds: readonly string[]): void {
    for (const id of pictureIds) this.client.forget(id);
  }
}
