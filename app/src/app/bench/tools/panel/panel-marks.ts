import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { openPath, quadOf, type Point } from '@able-plumb/core';
import { PictureSession } from '../../session/picture-session';
import { Cased, Tag } from '../kit/marks';
import { onScreen } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';
import { panelsOnStage, type PanelPart } from './panel-handles';

/** Panels with their perspective grid; on a sheet its pieces, and where their borders end; the corners being placed. */
@Component({
  selector: 'svg[ap-panel-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Tag],
  template: `
    @for (panel of panels(); track panel.id) {
      <svg:g class="panel" [class.aside]="!panel.used" [class.piece]="sheet" [class.chosen]="sheet && worked() === panel.id">
        <svg:path class="grid" [attr.d]="panel.grid" />
        <svg:g ap-cased [d]="panel.path" />
        <svg:path class="square under" [attr.d]="panel.squares" />
        <svg:path class="square" [attr.d]="panel.squares" />
        <svg:g ap-cased [d]="panel.edges" />
        @for (at of panel.handles; track $index) {
          <svg:circle class="ring" [class.held]="isHeld(panel.id, $index)" [attr.cx]="at[0]" [attr.cy]="at[1]" r="6.5" />
        }
        <svg:g
          ap-tag
          class="small"
          [at]="[panel.badge[0], panel.badge[1] - 20]"
          [words]="sheet ? '' + panel.number : 'panel ' + panel.number"
        />
      </svg:g>
    }
    @for (edge of inner(); track edge.id) {
      <svg:path class="inner-edge under" [attr.d]="edge.path" />
      <svg:path class="inner-edge" [attr.d]="edge.path" />
    }
    @for (corner of corners(); track $index) {
      <svg:circle class="ring placing" [attr.cx]="corner[0]" [attr.cy]="corner[1]" r="6.5" />
    }
  `,
})
export class PanelMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  private readonly session = inject(PictureSession);
  protected readonly sheet = this.tool.sheet;

  protected readonly panels = computed(() => panelsOnStage(this.tool));
  protected readonly worked = computed(() => this.tool.selection.held()?.id ?? this.tool.selection.id());

  /** On a sheet whose pieces begin inside their borders: where these end. */
  protected readonly inner = computed(() => {
    const sheet = this.session.own()?.sheet;
    if (!this.sheet || sheet?.border !== 'inside' || !this.tool.marks()) return [];
    return sheet.pieces.flatMap(({ id, inner }) => {
      const corners = quadOf(inner?.map((p) => onScreen(this.tool, p)) ?? []);
      return corners ? [{ id, path: `${openPath(corners)}Z` }] : [];
    });
  });

  protected readonly corners = computed<readonly Point[]>(() =>
    this.tool.inHand() !== 'panel'
      ? []
      : this.tool.drawing
          .points()
          .map((p) => onScreen(this.tool, p))
          .filter((p) => p !== null),
  );

  protected isHeld(id: string, index: number): boolean {
    const held = this.tool.selection.held();
    return held?.tool === 'panel' && held.id === id && (held.part as PanelPart).index === index;
  }
}
