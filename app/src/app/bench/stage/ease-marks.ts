import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { Point, RingHandle } from '@able-plumb/core';

/** A shape ring as the stage draws it, screen px. */
export interface RingMark {
  readonly id: string;
  readonly path: string;
  /** While the ring is small on the stage its middle alone can be taken hold of, and is not drawn over it. */
  readonly handles: readonly { readonly handle: RingHandle; readonly at: Point; readonly held: boolean }[];
  readonly small: boolean;
  /** Where its words stand, above it. */
  readonly tag: Point;
  readonly words: string;
  readonly selected: boolean;
}

/** An edge easing as the stage draws it, screen px. */
export interface BoundaryMark {
  readonly id: string;
  readonly axis: 'x' | 'y';
  readonly at: number;
  readonly grip: Point;
  /** A path from the boundary to where all is narrowed in full; and one along the stretch that gives the room. */
  readonly reach: string;
  readonly room: string | null;
  readonly words: string;
  readonly selected: boolean;
  readonly held: boolean;
}

/** What the Ease step draws: boundaries with the stretch over which they take effect, and rings. */
@Component({
  selector: 'g[ap-ease-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (b of boundaries(); track b.id) {
      <svg:g class="boundary" [class.selected]="b.selected">
        @for (twice of ['casing', 'core']; track twice) {
          @if (b.room) {
            <svg:path [attr.class]="'room ' + twice" [attr.d]="b.room" />
          }
          <svg:path [attr.class]="'reach ' + twice" [attr.d]="b.reach" />
        }
        @for (twice of ['casing', 'core']; track twice) {
          <svg:line
            [attr.class]="twice"
            [attr.x1]="b.axis === 'x' ? b.at : 0"
            [attr.x2]="b.axis === 'x' ? b.at : '100%'"
            [attr.y1]="b.axis === 'y' ? b.at : 0"
            [attr.y2]="b.axis === 'y' ? b.at : '100%'"
          />
        }
        <svg:circle class="ring" [class.held]="b.held" [attr.cx]="b.grip[0]" [attr.cy]="b.grip[1]" r="7" />
        <svg:g class="words" [attr.transform]="'translate(' + b.grip[0] + ' ' + (b.grip[1] + 24) + ')'">
          <svg:rect x="-56" y="-11" width="112" height="22" rx="4" />
          <svg:text y="4" text-anchor="middle">{{ b.words }}</svg:text>
        </svg:g>
      </svg:g>
    }
    @if (draft(); as path) {
      <svg:path class="casing" [attr.d]="path" />
      <svg:path class="core" [attr.d]="path" />
    }
    @for (r of rings(); track r.id) {
      <svg:g class="shape" [class.selected]="r.selected">
        <svg:path class="casing" [attr.d]="r.path" />
        <svg:path class="core" [attr.d]="r.path" />
        @for (h of r.small ? [] : r.handles; track h.handle) {
          <svg:circle class="ring" [class.held]="h.held" [attr.cx]="h.at[0]" [attr.cy]="h.at[1]" r="5.5" />
        }
        <svg:g class="words" [attr.transform]="'translate(' + r.tag[0] + ' ' + (r.tag[1] - 24) + ')'">
          <svg:rect x="-72" y="-11" width="144" height="22" rx="4" />
          <svg:text y="4" text-anchor="middle">{{ r.words }}</svg:text>
        </svg:g>
      </svg:g>
    }
  `,
  styles: `
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
      stroke-width: 1.5;
    }
    .boundary .core {
      stroke-dasharray: 14 4;
    }
    .selected .core {
      stroke-width: 2.4;
    }
    .boundary .room.core {
      stroke-dasharray: 3 4;
    }
    .boundary .reach.core {
      stroke-dasharray: none;
      stroke-width: 2.4;
    }
    .ring {
      fill: rgb(255 255 255 / 18%);
      stroke: #14181b;
      stroke-width: 2.2;
      filter: drop-shadow(0 0 0.8px #fff) drop-shadow(0 0 0.8px #fff);
    }
    .ring.held {
      stroke-width: 4;
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
export class EaseMarks {
  readonly rings = input.required<readonly RingMark[]>();
  readonly boundaries = input.required<readonly BoundaryMark[]>();
  /** The ring being drawn, an SVG path. */
  readonly draft = input<string | null>(null);
}
