import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { LineMark } from '@able-plumb/core';

/** A reference line: dark core in a light casing, open rings at its ends, its kind's mark, its number. */
@Component({
  selector: 'g[ap-line]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    '[attr.class]':
      "'line ' + line().kind + (line().used ? '' : ' aside') + (line().selected ? ' selected' : '') + (line().disagrees ? ' disagrees' : '')",
  },
  template: `
    <svg:path class="casing" [attr.d]="line().path" />
    <svg:path class="core" [attr.d]="line().path" />
    @switch (line().kind) {
      @case ('plumb') {
        <svg:path class="mark" d="M-5.5 9h11l-5.5 17z" [attr.transform]="'translate(' + line().foot[0] + ' ' + line().foot[1] + ')'" />
      }
      @case ('level') {
        <svg:g [attr.transform]="'translate(' + line().middle[0] + ' ' + line().middle[1] + ') rotate(' + line().turnDeg + ')'">
          <svg:rect class="mark" x="-13" y="-5" width="26" height="10" rx="5" />
          <svg:ellipse class="bubble" rx="4.5" ry="2.8" />
        </svg:g>
      }
      @case ('return') {
        <svg:path
          class="mark open"
          d="M-7 -6 1 0l-8 6M-1 -6 7 0l-8 6"
          [attr.transform]="'translate(' + line().middle[0] + ' ' + line().middle[1] + ') rotate(' + line().turnDeg + ')'"
        />
      }
      @case ('eye') {
        <svg:g [attr.transform]="'translate(' + line().middle[0] + ' ' + line().middle[1] + ')'">
          <svg:path class="mark" d="M-12 0Q0-11 12 0Q0 11-12 0z" />
          <svg:circle class="bubble" r="3" />
        </svg:g>
      }
    }
    <svg:circle class="ring" [class.held]="held() === 'a'" [attr.cx]="line().a[0]" [attr.cy]="line().a[1]" r="6.5" />
    <svg:circle class="ring" [class.held]="held() === 'b'" [attr.cx]="line().b[0]" [attr.cy]="line().b[1]" r="6.5" />
    <svg:g class="badge" [attr.transform]="'translate(' + line().badge[0] + ' ' + line().badge[1] + ')'">
      <svg:circle r="8.5" />
      <svg:text y="3.8" text-anchor="middle">{{ line().number }}</svg:text>
    </svg:g>
  `,
  styles: `
    :host {
      --mark: var(--chalk-blue);
    }
    :host(.plumb) {
      --mark: var(--brass);
    }
    :host(.disagrees) {
      --mark: var(--brick);
    }
    :host(.disagrees) .core {
      stroke: var(--brick);
      stroke-dasharray: 7 4;
    }
    .casing,
    .core {
      fill: none;
    }
    .casing {
      stroke: rgb(255 255 255 / 85%);
      stroke-width: 4.5;
      stroke-linecap: butt;
    }
    .core {
      stroke: #14181b;
      stroke-width: 1.5;
    }
    :host(.selected) .core {
      stroke-width: 2.4;
    }
    :host(.selected) .casing {
      stroke-width: 6;
    }
    .mark {
      fill: var(--mark);
      stroke: #14181b;
      stroke-width: 1.2;
      paint-order: stroke;
    }
    .mark.open {
      fill: none;
      stroke: var(--mark);
      stroke-width: 3;
    }
    .bubble {
      fill: #f7f5ef;
      stroke: #14181b;
      stroke-width: 1;
    }
    .ring {
      fill: rgb(255 255 255 / 1%);
      stroke: var(--mark);
      stroke-width: 2.4;
      filter: drop-shadow(0 0 0.8px #fff) drop-shadow(0 0 0.8px #14181b);
    }
    :host(.selected) .ring {
      r: 7.5px;
    }
    .ring.held {
      stroke-width: 4.5;
    }
    .badge circle {
      fill: #1f2326;
      stroke: rgb(255 255 255 / 80%);
      stroke-width: 1;
    }
    .badge text {
      fill: #fff;
      font: 600 11px var(--font);
    }
    :host(.aside) .core {
      stroke-dasharray: 5 4;
    }
    :host(.aside) .mark,
    :host(.aside) .badge circle {
      fill: none;
    }
    :host(.aside) .badge text {
      fill: #1f2326;
    }
    :host(.aside) .badge circle {
      fill: rgb(255 255 255 / 80%);
      stroke: #1f2326;
    }
  `,
})
export class LineShape {
  readonly line = input.required<LineMark>();
  /** The end that arrow keys nudge. */
  readonly held = input<'a' | 'b' | null>(null);
}
