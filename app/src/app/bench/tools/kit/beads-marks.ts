import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { bowInPicture, distance, openPath, orderedBeads, type Point } from '@able-plumb/core';
import { TOOL_CONTEXT } from '../tool-context';
import { Cased, Tag } from './marks';
import { onScreen } from './on-screen';

/** The edge being traced: its beads, and the bow that they show so far. */
@Component({
  selector: 'g[ap-beads-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Tag],
  host: { class: 'trace selected' },
  template: `
    @if (tracing(); as t) {
      <svg:g ap-cased [d]="t.path" />
      @for (at of t.beads; track $index) {
        <svg:rect class="bead" [attr.x]="at[0] - 3.5" [attr.y]="at[1] - 3.5" width="7" height="7" />
      }
      @if (t.words) {
        <svg:g ap-tag class="small" [at]="[t.at[0], t.at[1] - 26]" [words]="t.words" />
      }
    }
  `,
})
export class BeadsMarks {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly tracing = computed(() => {
    const beads = this.tool.drawing.points();
    const shown = beads.map((p) => onScreen(this.tool, p)).filter((p) => p !== null);
    const last = shown.at(-1);
    if (!last) return null;
    const bow = bowInPicture(orderedBeads(beads));
    const length = beads.length > 1 ? `${distance(beads[0] as Point, beads.at(-1) as Point).toFixed(0)} px long` : '';
    return { beads: shown, path: openPath(shown), at: last, words: bow === null ? length : `bow ${bow.toFixed(1)} px` };
  });
}
