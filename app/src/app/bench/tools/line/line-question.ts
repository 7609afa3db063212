import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { kindNames, withReference, type ReferenceKind } from '@able-plumb/core';
import { TOOL_CONTEXT } from '../tool-context';
import { linesOnStage, selectedLine } from './line-handles';

/** What the selected line is in reality: asked where it is too steep for a level one and not steep enough for a plumb one. */
@Component({
  selector: 'ap-line-question',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton],
  template: `
    @if (question(); as q) {
      <div
        class="question"
        role="group"
        aria-label="What is this line in reality?"
        [style.left.px]="q.at[0]"
        [style.top.px]="q.at[1]"
        (pointerdown)="$event.stopPropagation()"
      >
        <span>in reality</span>
        @for (k of q.kinds; track k.kind) {
          <button type="button" matButton class="plain" aria-pressed="false" (click)="answer(q.id, k.kind, $event)">{{ k.name }}</button>
        }
      </div>
    }
  `,
  styles: `
    .question {
      position: absolute;
      display: flex;
      align-items: center;
      gap: 2px;
      translate: 16px 16px;
      padding: 3px 4px 3px 9px;
      border-radius: 5px;
      background: rgb(24 27 30 / 92%);
      color: #f1efe9;
      font-size: 12.5px;
      white-space: nowrap;
      /* on dark in both themes */
      --ink: #f1efe9;
      --mat-button-text-state-layer-color: #fff;
      --mat-button-text-label-text-weight: 600;
      --mat-button-text-label-text-color: #f1efe9;
      --mat-button-text-container-height: var(--toggle);
    }
    span {
      color: #c9c6bf;
      margin-right: 4px;
    }
  `,
})
export class LineQuestion {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly question = computed(() => {
    const [selected, document] = [selectedLine(this.tool), this.tool.document()];
    const line = selected?.waits ? linesOnStage(this.tool).find(({ id }) => id === selected.id) : undefined;
    if (!line || !document) return null;
    const names = kindNames(document.camera.flat ? 'sheet' : document.stance.front);
    return { id: line.id, at: line.middle, kinds: (['plumb', 'level', 'return'] as const).map((kind) => ({ kind, name: names[kind] })) };
  });

  protected answer(id: string, kind: ReferenceKind, event: Event): void {
    const stage = (event.target as HTMLElement).closest<HTMLElement>('[role=application]');
    this.tool.commit((c) => withReference(c, id, { kind, waits: undefined }));
    stage?.focus({ preventScroll: true });
  }
}
