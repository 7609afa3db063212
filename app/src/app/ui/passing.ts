import { inject, Injectable } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';

/** Notes that pass by themselves, and what went wrong, which waits until it is read. */
@Injectable({ providedIn: 'root' })
export class Passing {
  private readonly bar = inject(MatSnackBar);

  say(sentence: string): void {
    this.bar.open(sentence, undefined, { duration: 4000 });
  }

  trouble(sentence: string): void {
    this.bar.open(sentence, 'Understood');
  }
}
