import { NgComponentOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, ViewEncapsulation } from '@angular/core';
import { Hand } from '../session/hand';
import { TOOLS } from '../tools';
import { Tag } from '../tools/kit/marks';
import { KeyboardPen } from './keyboard-pen';
import { Evidence } from './layers/evidence';
import { Ground } from './layers/ground';
import { ViewAids } from './layers/view-aids';

/** Everything that is drawn over the picture, the marks of the tools among it. The styles of all marks stand here once. */
@Component({
  selector: 'svg[ap-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  encapsulation: ViewEncapsulation.None,
  imports: [Evidence, Ground, NgComponentOutlet, Tag, ViewAids],
  host: { class: 'marks', 'aria-hidden': 'true' },
  template: `
    <svg:g ap-ground />
    <svg:g ap-view-aids />
    <svg:g ap-evidence />
    @for (tool of tools; track tool.id) {
      @if (tool.marks; as marks) {
        <ng-container *ngComponentOutlet="marks" />
      }
    }
    @if (hand.tag(); as tag) {
      <svg:g ap-tag [at]="[tag.at[0], tag.at[1] - 34]" [words]="tag.words" [strong]="true" />
    }
    @if (pen.at(); as at) {
      <svg:g class="pen-cursor" [attr.transform]="'translate(' + at[0] + ' ' + at[1] + ')'">
        <svg:path class="under" d="M-16 0h11M5 0h11M0-16v11M0 5v11" />
        <svg:path class="over" d="M-16 0h11M5 0h11M0-16v11M0 5v11" />
      </svg:g>
    }
  `,
  styleUrls: ['./marks.scss', './marks-of-kinds.scss'],
})
export class Marks {
  protected readonly tools = TOOLS;
  protected readonly hand = inject(Hand);
  protected readonly pen = inject(KeyboardPen);
}
