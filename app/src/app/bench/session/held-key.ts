import { DOCUMENT, inject, Injectable, type OnDestroy } from '@angular/core';

/** Keys that change the value of a slider or a field by a step. */
const STEPPING: ReadonlySet<string> = new Set(['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown']);

/** The key that a field is being changed with at this moment. */
@Injectable()
export class HeldKey implements OnDestroy {
  private readonly document = inject(DOCUMENT);
  private readonly numbers = new WeakMap<EventTarget, number>();
  private count = 0;
  private now: string | null = null;

  constructor() {
    this.document.addEventListener('keydown', this.note, true);
  }

  /** Names the key and the field, the same for every repeat; null where no key of that kind is being handled. */
  name(): string | null {
    return this.now;
  }

  ngOnDestroy(): void {
    this.document.removeEventListener('keydown', this.note, true);
  }

  private readonly note = ({ key, target }: KeyboardEvent): void => {
    if (!target || !STEPPING.has(key) || !(target as Element).matches('input')) return;
    const number = this.numbers.get(target) ?? (this.count += 1);
    this.numbers.set(target, number);
    this.now = `${key} in field ${number}`;
    // the browser changes a slider after the handlers, in the same turn
    setTimeout(() => (this.now = null));
  };
}
