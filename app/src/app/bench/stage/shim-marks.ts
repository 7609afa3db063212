import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { Point, Rect, ShimHandle } from '@able-plumb/core';

/** A shim as the stage draws it, screen px. */
export interface ShimMark {
  readonly id: string;
  readonly box: Rect;
  readonly selected: boolean;
  readonly used: boolean;
  /** Rows and columns as paths; none unless it is worked on. */
  readonly net: readonly string[];
  readonly handles: readonly {
    readonly handle: ShimHandle;
    readonly at: Point;
    readonly held: boolean;
    readonly hold: 'no' | 'moved' | 'nail';
  }[];
  readonly lines: readonly { readonly id: string; readonly path: string; readonly words: string; readonly at: Point | null }[];
  readonly words: string;
}

/** Shims: boxes, the net of the one that is worked on with its crossings and nails, lines that come true. */
@Component({
  selector: 'g[ap-shim-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (draft(); as d) {
      @for (twice of ['casing', 'core']; track twice) {
        <svg:rect [attr.class]="'box ' + twice" [attr.x]="d.x" [attr.y]="d.y" [attr.width]="d.width" [attr.height]="d.height" />
      }
    }
    @for (s of shims(); track s.id) {
      <svg:g class="shim" [class.selected]="s.selected" [class.aside]="!s.used">
        @for (twice of ['casing', 'core']; track twice) {
          <svg:rect
            [attr.class]="'box ' + twice"
            [attr.x]="s.box.x"
            [attr.y]="s.box.y"
            [attr.width]="s.box.width"
            [attr.height]="s.box.height"
          />
          @for (path of s.net; track $index) {
            <svg:path [attr.class]="'net ' + twice" [attr.d]="path" />
          }
          @for (line of s.lines; track line.id) {
            <svg:path [attr.class]="'line ' + twice" [attr.d]="line.path" />
          }
        }
        @for (line of s.lines; track line.id) {
          @if (line.at; as at) {
            <svg:g class="words" [attr.transform]="'translate(' + (at[0] + 38) + ' ' + at[1] + ')'">
              <svg:rect x="-29" y="-10" width="58" height="20" rx="4" />
              <svg:text y="4" text-anchor="middle">{{ line.words }}</svg:text>
            </svg:g>
          }
        }
        @for (h of s.handles; track $index) {
          <svg:g [attr.transform]="'translate(' + h.at[0] + ' ' + h.at[1] + ')'" [class.held]="h.held">
            @switch (h.handle.of === 'hold' ? 'crossing' : h.handle.of) {
              @case ('crossing') {
                @if (h.hold === 'nail') {
                  <svg:path class="nail" d="M-5 -5H5V5H-5ZM-5 -5L5 5M-5 5L5 -5" />
                } @else {
                  <svg:circle class="crossing" [class.moved]="h.hold === 'moved'" r="4" />
                }
              }
              @case ('column') {
                <svg:path class="grip" d="M-5 -11H5L0 -2Z" />
              }
              @case ('row') {
                <svg:path class="grip" d="M-11 -5V5L-2 0Z" />
              }
              @case ('corner') {
                <svg:rect class="crossing" x="-5" y="-5" width="10" height="10" />
              }
            }
          </svg:g>
        }
        <svg:g class="words" [attr.transform]="'translate(' + (s.box.x + s.box.width / 2) + ' ' + (s.box.y + s.box.height + 18) + ')'">
          <svg:rect [attr.x]="-4 - s.words.length * 3.6" y="-11" [attr.width]="8 + s.words.length * 7.2" height="22" rx="4" />
          <svg:text y="4" text-anchor="middle">{{ s.words }}</svg:text>
        </svg:g>
      </svg:g>
    }
  `,
  styles: `
    .box,
    .net,
    .line {
      fill: none;
    }
    .casing {
      stroke: rgb(255 255 255 / 80%);
      stroke-width: 3.6;
    }
    .core {
      stroke: #14181b;
      stroke-width: 1.3;
    }
    .net.casing {
      stroke-width: 2.4;
      stroke: rgb(255 255 255 / 45%);
    }
    .net.core {
      stroke-width: 0.9;
    }
    .line.core {
      stroke-width: 2;
      stroke-dasharray: 7 3;
    }
    .selected .box.core {
      stroke-width: 2.2;
    }
    .aside .core {
      stroke-dasharray: 5 4;
    }
    .crossing {
      fill: rgb(255 255 255 / 25%);
      stroke: #14181b;
      stroke-width: 1.6;
      filter: drop-shadow(0 0 0.8px #fff) drop-shadow(0 0 0.8px #fff);
    }
    .moved {
      fill: #14181b;
      stroke: #fff;
      stroke-width: 1.4;
    }
    .nail {
      fill: #fff;
      stroke: #14181b;
      stroke-width: 1.8;
    }
    .grip {
      fill: #14181b;
      stroke: #fff;
      stroke-width: 1.2;
    }
    .held .crossing,
    .held .nail,
    .held .grip {
      stroke: #14181b;
      stroke-width: 3.6;
      fill: #fff;
    }
    .words rect {
      fill: rgb(24 27 30 / 90%);
    }
    .words text {
      fill: #f1efe9;
      font: 500 12.5px var(--font);
      font-variant-numeric: tabular-nums lining-nums;
    }
  `,
})
export class ShimMarks {
  readonly shims = input.required<readonly ShimMark[]>();
  /** The box being drawn. */
  readonly draft = input<Rect | null>(null);
}
