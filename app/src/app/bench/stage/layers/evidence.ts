import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Found } from '../../session/found';
import { Cased } from '../../tools/kit/marks';
import { lineOnScreen, linePath } from '../../tools/kit/on-screen';
import { TOOL_CONTEXT } from '../../tools/tool-context';

/** Edges that speak for or against a suggestion, or against what is set. */
@Component({
  selector: 'g[ap-evidence]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased],
  template: `
    @for (edge of edges(); track edge.k) {
      <svg:g [class]="'evidence ' + edge.kind" [class.against]="!edge.agrees" ap-cased [d]="edge.path" />
    }
  `,
})
export class Evidence {
  private readonly tool = inject(TOOL_CONTEXT);
  private readonly found = inject(Found);

  protected readonly edges = computed(() =>
    this.found.evidence().flatMap(({ kind, a, b, agrees }, k) => {
      const line = lineOnScreen(this.tool, a, b);
      return line ? [{ k, kind, agrees, path: linePath(line) }] : [];
    }),
  );
}
