import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { jobsFeature } from '../state/jobs.reducer';
import { shelfActions } from '../state/shelf.actions';
import { keyRow, shownKey, withOwnKeys, type KeyAction, type KeyRow, type OwnKeys } from './key-rows';

/** The keys as this person has them. */
@Injectable({ providedIn: 'root' })
export class KeyTable {
  private readonly store = inject(Store);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);
  readonly own = computed<OwnKeys>(() => this.settings().ownKeys as OwnKeys);
  readonly rows = computed(() => withOwnKeys(this.own()));
  private readonly names = computed(() => new Map(this.rows().map((row) => [row.action, shownKey(row)])));

  /** What the key of an action is called, for tooltips. */
  shown(action: KeyAction): string {
    return this.names().get(action) ?? '';
  }

  /** The row that a key press asks for; null for none. */
  row(event: KeyboardEvent): KeyRow | null {
    return keyRow(this.rows(), event);
  }

  change(own: OwnKeys): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { ownKeys: own } }));
  }
}
