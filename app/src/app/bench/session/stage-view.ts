import { Injectable, signal } from '@angular/core';
import type { View } from '@able-plumb/core';

/** Which part of the plane the stage shows. */
@Injectable()
export class StageView {
  readonly view = signal<View | null>(null);
  /** True once the user has zoomed or panned: the stage then no longer fits itself. */
  readonly viewHeld = signal(false);
  /** Counts the times that a fit was asked for. */
  readonly fitAsked = signal(0);

  /** Shows another part from now on, whatever would fit. */
  look(view: View): void {
    this.viewHeld.set(true);
    this.view.set(view);
  }

  /** Fits the picture to the stage, and lets it fit itself from now on. */
  fit(): void {
    this.viewHeld.set(false);
    this.fitAsked.update((n) => n + 1);
  }
}
