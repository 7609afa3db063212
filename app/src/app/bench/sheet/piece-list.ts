import { ChangeDetectionStrategy, Component, effect, ElementRef, inject } from '@angular/core';
import { MatCheckbox } from '@angular/material/checkbox';
import { Hand } from '../session/hand';
import { SmallResult } from '../small-result';
import { SheetDesk } from './sheet-desk';

/** The pieces of a sheet, each as its picture will be, with its number, size and how it lies. */
@Component({
  selector: 'ap-piece-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatCheckbox, SmallResult],
  template: `
    <h2>{{ desk.pieces().length === 1 ? '1 piece' : desk.pieces().length + ' pieces' }}</h2>
    <ul>
      @for (p of desk.pieces(); track p.piece.id) {
        <li [class.chosen]="hand.piece() === p.piece.id" [attr.data-piece]="p.piece.id">
          <button type="button" (click)="hand.select(p.piece.id)" [attr.aria-pressed]="hand.piece() === p.piece.id">
            <ap-small-result [of]="p.piece.id" [correction]="p.correction" [longEdge]="132" />
            <span class="name"
              ><b>{{ p.number }}</b>
              <span class="end"
                ><bdi>{{ p.name }}</bdi></span
              ></span
            >
            <span class="words">{{ p.size }}</span>
            <span class="words">{{ p.lies }}</span>
            @if (p.remark) {
              <span class="remark">{{ p.remark }}</span>
            }
          </button>
          <mat-checkbox
            [checked]="desk.ticked().includes(p.piece.id)"
            (change)="desk.tick(p.piece.id, $event.checked)"
            [aria-label]="'Tick piece ' + p.number + ' to join it with another'"
          />
        </li>
      }
    </ul>
  `,
  styleUrl: './piece-list.scss',
  host: { role: 'region', 'aria-label': 'Pieces' },
})
export class PieceList {
  protected readonly desk = inject(SheetDesk);
  protected readonly hand = inject(Hand);

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    effect(() => {
      const id = this.hand.piece();
      if (id !== null) host.querySelector(`[data-piece="${id}"]`)?.scrollIntoView({ block: 'nearest' });
    });
  }
}
