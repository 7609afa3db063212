import { inject, Injectable, Injector, type Type } from '@angular/core';
import type { MatDialogConfig } from '@angular/material/dialog';
import { firstValueFrom } from 'rxjs';
import type { ConfirmText } from './confirm';

/** Opens dialogs. What they are made of is fetched for the first one. */
@Injectable({ providedIn: 'root' })
export class Dialogs {
  private readonly injector = inject(Injector);
  private fetching = false;

  /** Opens one and waits for what it is closed with; undefined where it is only closed, or another one is about to open. */
  async open<R>(fetched: () => Promise<Type<unknown>>, config: MatDialogConfig<unknown>): Promise<R | undefined> {
    if (this.fetching) return undefined;
    this.fetching = true;
    const [{ MatDialog }, part] = await Promise.all([import('@angular/material/dialog'), fetched()]).finally(() => (this.fetching = false));
    return firstValueFrom(this.injector.get(MatDialog).open<unknown, unknown, R>(part, config).afterClosed());
  }

  /** Asks before something that cannot be undone. */
  async confirm(data: ConfirmText): Promise<boolean> {
    const yes = await this.open<boolean>(() => import('./confirm').then(({ Confirm }) => Confirm), { data, width: '460px' });
    return yes === true;
  }
}
