import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { draftMark } from '@able-plumb/core';
import { TOOL_CONTEXT } from '../tool-context';
import { isLongForWords } from './draft-words';
import { Cased, Tag } from './marks';

/** The line at the pointer, with what is said of it, for tools whose lines are no references. */
@Component({
  selector: 'g[ap-draft-line]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Tag],
  template: `
    @if (mark(); as m) {
      <svg:g ap-cased [d]="m.path" />
      <svg:circle class="ring" [attr.cx]="m.a[0]" [attr.cy]="m.a[1]" r="6.5" />
      <svg:circle class="ring" [attr.cx]="m.b[0]" [attr.cy]="m.b[1]" r="6.5" />
      @if (m.far) {
        <svg:g ap-tag [at]="[m.b[0], m.b[1] - 34]" [words]="words()" [more]="m.length" [strong]="true" />
      }
    }
  `,
})
export class DraftLineMark {
  private readonly tool = inject(TOOL_CONTEXT);
  readonly words = input.required<string>();

  protected readonly mark = computed(() => {
    const [view, warp, draft] = [this.tool.view(), this.tool.warp(), this.tool.drawing.line()];
    const mark = view && warp && draft && draftMark(view, warp, draft, 0);
    return mark && { ...mark, far: isLongForWords(mark), length: `${Math.round(draft.lengthPx)} px` };
  });
}
