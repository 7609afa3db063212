import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  ChangeDetectorRef,
  Component,
  computed,
  inject,
  input,
  type OnDestroy,
  viewChildren,
} from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatProgressBar } from '@angular/material/progress-bar';
import { MatTooltip } from '@angular/material/tooltip';
import { evidenceInWords, sureInWords, SUGGESTION_NAMES, type Suggestion } from '@able-plumb/core';
import { Tip } from '../../../keys/tip';
import { Passing } from '../../../ui/passing';
import { Found } from '../../session/found';
import { PictureSession } from '../../session/picture-session';
import { SmallResult } from '../../small-result';

/** What the picture says by itself: each suggestion as a small live picture of its result, how sure it is, on what evidence, at what cost. */
@Component({
  selector: 'ap-suggestion-row',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatProgressBar, MatTooltip, SmallResult, Tip],
  templateUrl: './suggestion-row.html',
  styleUrl: './suggestion-row.scss',
})
export class SuggestionRow implements OnDestroy {
  private readonly session = inject(PictureSession);
  protected readonly found = inject(Found);
  private readonly passing = inject(Passing);
  private readonly view = inject(ChangeDetectorRef);
  /** How many lines there are: with two the row folds into the head of References. */
  readonly lines = input.required<number>();
  private readonly cards = viewChildren<ElementRef<HTMLButtonElement>>('card');

  protected readonly folded = computed(() => (this.lines() >= 2 || this.found.refused()) && !this.found.unfolded());
  protected readonly shown = computed(() =>
    this.found.suggestions().map((suggestion) => ({
      suggestion,
      name: SUGGESTION_NAMES[suggestion.kind],
      sure: sureInWords(suggestion),
      evidence: evidenceInWords(suggestion),
      cost: `keeps ${Math.round(suggestion.cost.kept * 100)} %, enlarges to ${suggestion.cost.peak.toFixed(2)}`,
    })),
  );
  protected readonly heldCard = computed(() => this.shown().find(({ suggestion }) => suggestion === this.found.held()) ?? null);

  constructor() {
    // the key that goes through them reaches them wherever the keyboard is
    this.found.nextAsked = (): void => this.next();
  }

  ngOnDestroy(): void {
    this.found.nextAsked = null;
    this.found.hold(null);
  }

  /** The next suggestion gets the keyboard, which shows it; Enter takes it. */
  private next(): void {
    if (this.folded()) {
      this.found.unfolded.set(true);
      this.view.detectChanges();
      this.focusAfter(-1);
    } else this.focusAfter(this.cards().findIndex((card) => card.nativeElement === document.activeElement));
  }

  private focusAfter(at: number): void {
    const cards = this.cards();
    cards[(at + 1) % Math.max(1, cards.length)]?.nativeElement.focus();
  }

  protected take(suggestion: Suggestion): void {
    this.found.unfolded.set(false);
    this.found.take(suggestion);
    const count = this.session.committed()?.references.filter(({ by }) => by === 'found').length ?? 0;
    this.passing.say(`${SUGGESTION_NAMES[suggestion.kind]}: ${count} ${count === 1 ? 'line' : 'lines'} found. Undo takes it back at once.`);
    // the stage has the keyboard again
    document.querySelector<HTMLElement>('ap-stage .area')?.focus();
  }
}
