import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { jobsFeature } from '../state/jobs.reducer';
import { shelfActions } from '../state/shelf.actions';
import { currentOwnKeys, keyRow, keyRows, shownKey, withOwnKeys, type KeyAction, type KeyRow, type OwnKeys } from './key-rows';

/** The keys as this person has them. */
@Injectable({ providedIn: 'root' })
export class KeyTable {
  private readonly store = inject(Store);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);
  private readonly ofTools = signal<readonly KeyRow[]>([]);
  /** The table as it is at first. */
  readonly first = computed(() => keyRows(this.ofTools()));
  readonly own = computed(() => currentOwnKeys(this.settings().ownKeys));
  readonly rows = computed(() => withOwnKeys(this.first(), this.own()));
  private readonly names = computed(() => new Map(this.rows().map((row) => [row.action, shownKey(row)])));

  /** Takes the keys of tools into the table; once for all of them. */
  learn(rows: readonly KeyRow[]): void {
    this.ofTools.set(rows);
  }

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
