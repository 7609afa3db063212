import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatProgressBar } from '@angular/material/progress-bar';
import { MatTooltip } from '@angular/material/tooltip';
import { emptyParts, MUCH_FILLED, withAnotherTry, withoutFillMark, withPartLeft, type EmptyPart } from '@able-plumb/core';
import type { ToolId } from '../../../state/model';
import { Icon } from '../../../ui/icon';
import { Segments, type Segment } from '../../../ui/segments';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { FillPreview } from '../../session/fill-preview';
import { ToolBox } from '../../tool-box';

const BRUSHES: readonly Segment[] = [
  { value: 'box', label: 'box' },
  { value: 'brush', label: 'brush' },
];

/** How empty edges are filled: which parts, from where, what goes straight on; and what share of the file is then invented. */
@Component({
  selector: 'ap-crop-fill',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatCheckbox, MatProgressBar, MatTooltip, Segments],
  template: `
    @if (trouble(); as sentence) {
      <p class="note trouble" role="alert">{{ sentence }}</p>
    } @else if (share() === 0) {
      <p class="note" role="status">Nothing of this crop is empty: nothing is filled.</p>
    } @else {
      <p class="note" role="status" [class.trouble]="share() > much">
        <b>{{ (share() * 100).toFixed(1) }} %</b> of the file is filled from the picture’s own surroundings; the file says so.
        @if (share() > much) {
          That is a great deal to invent.
        }
      </p>
    }
    <div class="busy">
      @if (preview.busy()) {
        <mat-progress-bar mode="indeterminate" aria-label="Filling" />
      }
    </div>
    @for (part of parts(); track part.name + $index) {
      <mat-checkbox class="part-row" [checked]="!part.left" (change)="leave(part, !$event.checked)"
        >{{ part.name }} <small>{{ (part.share * 100).toFixed(1) }} %</small></mat-checkbox
      >
    }
    <div class="row steer">
      <button
        type="button"
        matButton="outlined"
        [attr.aria-pressed]="takes('fill-not')"
        matTooltip="Drag over what must not be copied"
        (click)="take('fill-not')"
      >
        Not from here
      </button>
      <button
        type="button"
        matButton="outlined"
        [attr.aria-pressed]="takes('fill-only')"
        matTooltip="Drag over what alone may be copied"
        (click)="take('fill-only')"
      >
        Only from here
      </button>
    </div>
    <ap-segments label="Painted with" [options]="brushes" [value]="hand.drawing.brush() ? 'brush' : 'box'" (chosen)="setBrush($event)" />
    <div class="row steer">
      <button
        type="button"
        matButton="outlined"
        [attr.aria-pressed]="takes('go-straight-on')"
        matTooltip="Draw along an edge up to the empty part: it goes on as it runs"
        (click)="take('go-straight-on')"
      >
        Go straight on
      </button>
      <button type="button" matButton="outlined" matTooltip="Another of many answers" (click)="again()">Another try</button>
    </div>
    @for (mark of marks(); track mark.id) {
      <div class="row keep-row">
        <span>{{ mark.words }}</span>
        <button type="button" matButton (click)="remove(mark.id)" [attr.aria-label]="'Remove ' + mark.words" matTooltip="Remove">
          <ap-icon name="remove" [size]="13" />
        </button>
      </div>
    }
    <mat-checkbox [checked]="preview.hatched()" (change)="preview.hatched.set($event.checked)">hatch what is filled</mat-checkbox>
  `,
  styleUrl: './crop.scss',
  host: { class: 'part' },
})
export class CropFill {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  protected readonly hand = inject(Hand);
  protected readonly box = inject(ToolBox);
  protected readonly preview = inject(FillPreview);
  protected readonly brushes = BRUSHES;
  protected readonly much = MUCH_FILLED;
  protected readonly share = this.preview.share;
  protected readonly trouble = computed(() =>
    this.session.correction()?.output.size.kind === 'scale'
      ? 'A file at 1:n is measured on, and what is filled has no size: choose another output size, or keep the empty edges.'
      : this.preview.trouble(),
  );
  protected readonly parts = computed<readonly EmptyPart[]>(() => {
    const shown = this.picture.shown();
    return shown ? emptyParts(shown.correction, shown.warp) : [];
  });
  protected readonly marks = computed(() => {
    const fill = this.session.correction()?.crop.fill;
    if (!fill) return [];
    return [
      ...fill.areas.map(({ id, kind }, i) => ({ id, words: `${i + 1} ${kind === 'not' ? 'not from here' : 'only from here'}` })),
      ...fill.lines.map(({ id }, i) => ({ id, words: `line ${i + 1} goes straight on` })),
    ];
  });

  protected takes(tool: ToolId): boolean {
    return this.hand.tool() === tool;
  }

  protected take(tool: ToolId): void {
    this.box.toggle(tool);
  }

  protected setBrush(way: string): void {
    this.hand.drawing.brush.set(way === 'brush');
  }

  protected leave(part: EmptyPart, left: boolean): void {
    const warp = this.picture.shown()?.warp;
    if (warp) this.session.commit((c) => withPartLeft(c, warp, part.at, left));
  }

  protected again(): void {
    this.session.commit(withAnotherTry);
  }

  protected remove(id: string): void {
    this.session.commit((c) => withoutFillMark(c, id));
  }
}
