import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { screenRect } from '@able-plumb/core';
import { Cased, Tag } from '../kit/marks';
import { rectPath } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';
import { shimsOnStage } from './shims-on-stage';

/** Shims: boxes, the net of the one that is worked on with its crossings and nails, lines that come true. */
@Component({
  selector: 'svg[ap-shim-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Tag],
  template: `
    @if (draft(); as path) {
      <svg:g class="shim" ap-cased [d]="path" />
    }
    @for (s of shims(); track s.id) {
      <svg:g class="shim" [class.selected]="s.selected" [class.aside]="!s.used">
        <svg:g class="box" ap-cased [d]="path(s.box)" />
        @for (path of s.net; track $index) {
          <svg:g class="net" ap-cased [d]="path" />
        }
        @for (line of s.lines; track line.id) {
          <svg:g class="within" ap-cased [d]="line.path" />
        }
        @for (line of s.lines; track line.id) {
          @if (line.at; as at) {
            <svg:g ap-tag class="small" [at]="[at[0] + 38, at[1]]" [words]="line.words" />
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
        <svg:g ap-tag class="small" [at]="[s.box.x + s.box.width / 2, s.box.y + s.box.height + 18]" [words]="s.words" />
      </svg:g>
    }
  `,
})
export class ShimMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly path = rectPath;
  protected readonly shims = computed(() => shimsOnStage(this.tool));

  /** The box being drawn. */
  protected readonly draft = computed(() => {
    const [view, box] = [this.tool.view(), this.tool.drawing.box()];
    return view && box && this.tool.inHand() === 'shim' ? rectPath(screenRect(view, box)) : null;
  });
}
