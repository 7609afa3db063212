import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { LineMark } from '@able-plumb/core';
import { Cased } from '../kit/marks';

/** A reference line: dark core in a light casing, open rings at its ends, its kind's mark, its number. */
@Component({
  selector: 'g[ap-line]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased],
  host: {
    '[attr.class]':
      "'line ' + line().kind + (line().used ? '' : ' aside') + (line().selected ? ' selected' : '') + (line().disagrees ? ' disagrees' : '')",
  },
  template: `
    <svg:g ap-cased [d]="line().path" />
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
})
export class LineShape {
  readonly line = input.required<LineMark>();
  /** The end that the arrow keys move. */
  readonly held = input<unknown>(null);
}
