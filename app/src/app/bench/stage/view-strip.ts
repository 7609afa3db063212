import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { withoutGuides } from '@able-plumb/core';
import { BenchSwitches } from '../session/bench-switches';
import { PictureSession } from '../session/picture-session';
import { Tip } from '../../keys/tip';
import { SelectField } from '../../ui/select-field';

/** Spacings of the grid, in percent of the crop's width, in the order of the key; 0 for none. */
export const GRID_SPACINGS: readonly number[] = [0, 25, 10, 5, 2, 1];

/** What is laid over the picture for the eye: the grid's spacing, and the guides. */
@Component({
  selector: 'ap-view-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, SelectField, Tip],
  template: `
    <span aria-hidden="true">Grid</span>
    <ap-select
      apTip="Grid"
      tipKey="grid"
      label="Grid"
      [choices]="spacings"
      [value]="'' + switches.grid()"
      (chosen)="switches.chooseGrid(+$event)"
    />
    @if (guides() > 0) {
      <button type="button" matButton (click)="clear()">Clear {{ guides() }} {{ guides() === 1 ? 'guide' : 'guides' }}</button>
    } @else {
      <span>Guides: drag them out of a ruler</span>
    }
  `,
  styles: `
    :host {
      position: absolute;
      left: 32px;
      bottom: 10px;
      display: flex;
      align-items: center;
      gap: 12px;
      padding: 3px 10px;
      border-radius: 5px;
      background: var(--plaster);
      border: 1px solid var(--line);
      font-size: 12.5px;
    }
    ap-select {
      width: 84px;
      --control: 26px;
      --mat-form-field-container-vertical-padding: 2px;
    }
    span {
      color: var(--ink-soft);
    }
  `,
})
export class ViewStrip {
  protected readonly switches = inject(BenchSwitches);
  private readonly session = inject(PictureSession);
  protected readonly spacings = GRID_SPACINGS.map((percent) => ({ value: String(percent), name: percent === 0 ? 'none' : `${percent} %` }));
  protected readonly guides = computed(() => this.session.correction()?.guides.length ?? 0);

  protected clear(): void {
    this.session.commit((c) => withoutGuides(c));
  }
}
