import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { Rect } from '@able-plumb/core';

/** What is filled and what steers it, as the stage draws it, screen px. */
export interface FillMark {
  readonly image: (Rect & { readonly href: string; readonly under: string }) | null;
  readonly areas: readonly {
    readonly id: string;
    readonly kind: 'not' | 'only';
    readonly path: string;
    /** Of a brush stroke; null for what has a border. */
    readonly width: number | null;
    readonly selected: boolean;
  }[];
  readonly lines: readonly { readonly id: string; readonly path: string; readonly selected: boolean }[];
  /** What is being drawn. */
  readonly draft: string | null;
}

/** What is filled; where it may be copied from and where not; what goes straight on. */
@Component({
  selector: 'g[ap-fill-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg:defs>
      <svg:pattern id="fill-not" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <svg:rect width="9" height="9" fill="rgb(177 70 47 / 30%)" />
        <svg:path d="M0 4.5H9" stroke="#b1462f" stroke-width="2.4" />
      </svg:pattern>
      <svg:pattern id="fill-only" width="9" height="9" patternUnits="userSpaceOnUse">
        <svg:rect width="9" height="9" fill="rgb(78 127 88 / 26%)" />
        <svg:circle cx="4.5" cy="4.5" r="1.6" fill="#3b6645" />
      </svg:pattern>
    </svg:defs>
    @if (fill(); as f) {
      @if (f.image; as i) {
        @for (href of i.href === i.under ? [i.href] : [i.under, i.href]; track href) {
          <svg:image
            [attr.href]="href"
            [attr.x]="i.x"
            [attr.y]="i.y"
            [attr.width]="i.width"
            [attr.height]="i.height"
            preserveAspectRatio="none"
          />
        }
      }
      @for (a of f.areas; track a.id) {
        <svg:path
          class="area"
          [class.selected]="a.selected"
          [attr.d]="a.path"
          [attr.fill]="a.width === null ? 'url(#fill-' + a.kind + ')' : 'none'"
          [attr.stroke]="a.width === null ? (a.kind === 'not' ? '#9a3a26' : '#3b6645') : 'url(#fill-' + a.kind + ')'"
          [attr.stroke-width]="a.width ?? (a.selected ? 3.4 : 1.6)"
        />
      }
      @for (l of f.lines; track l.id) {
        <svg:path class="casing" [attr.d]="l.path" />
        <svg:path class="core" [class.selected]="l.selected" [attr.d]="l.path" />
      }
      @if (f.draft; as path) {
        <svg:path class="casing" [attr.d]="path" />
        <svg:path class="core" [attr.d]="path" />
      }
    }
  `,
  styles: `
    .area {
      stroke-linecap: round;
      stroke-linejoin: round;
    }
    .casing,
    .core {
      fill: none;
    }
    .casing {
      stroke: rgb(255 255 255 / 85%);
      stroke-width: 4;
    }
    .core {
      stroke: #14181b;
      stroke-width: 1.6;
      stroke-dasharray: 10 4;
    }
    .core.selected {
      stroke-width: 3;
    }
  `,
})
export class FillMarks {
  readonly fill = input.required<FillMark>();
}
