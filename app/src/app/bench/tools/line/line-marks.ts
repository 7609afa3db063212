import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { draftMark, type LineMark } from '@able-plumb/core';
import { PictureSession } from '../../session/picture-session';
import { draftWords, isLongForWords } from '../kit/draft-words';
import { Tag } from '../kit/marks';
import { TOOL_CONTEXT } from '../tool-context';
import { linesOnStage } from './line-handles';
import { LineShape } from './line-shape';

/** Reference lines: those of the document, those that wait for the magnet, and the one being drawn. */
@Component({
  selector: 'svg[ap-line-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [LineShape, Tag],
  template: `
    @for (line of lines(); track line.id) {
      <svg:g ap-line [line]="line" [held]="heldEnd(line.id)" />
    }
    @for (line of waiting(); track $index) {
      <svg:g ap-line [line]="line" />
    }
    @if (draft(); as d) {
      <svg:g ap-line [line]="d.mark" />
      @if (d.words) {
        <svg:g ap-tag [at]="[d.mark.b[0], d.mark.b[1] - 34]" [words]="d.words" [more]="d.length" [strong]="true" />
      }
    }
  `,
})
export class LineMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  private readonly session = inject(PictureSession);

  protected readonly lines = computed(() => linesOnStage(this.tool));

  /** Lines that were drawn and settle when the magnet has answered. */
  protected readonly waiting = computed<readonly LineMark[]>(() => {
    const [view, warp] = [this.tool.view(), this.tool.warp()];
    const first = (this.session.correction()?.references.length ?? 0) + 1;
    return view && warp ? this.session.awaitedLines().flatMap((line, i) => draftMark(view, warp, line, first + i) ?? []) : [];
  });

  protected readonly draft = computed(() => {
    const [view, warp, draft] = [this.tool.view(), this.tool.warp(), this.tool.drawing.line()];
    if (!view || !warp || !draft || this.tool.inHand() !== 'line') return null;
    const number = (this.session.correction()?.references.length ?? 0) + this.session.awaitedLines().length + 1;
    const mark = draftMark(view, warp, draft, number);
    if (!mark) return null;
    return { mark, words: isLongForWords(mark) ? draftWords(this.tool, 'line') : '', length: `${Math.round(draft.lengthPx)} px` };
  });

  protected heldEnd(id: string): unknown {
    const held = this.tool.selection.held();
    return held?.tool === 'line' && held.id === id ? held.part : null;
  }
}
