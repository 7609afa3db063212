import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { withoutGuides } from '@able-plumb/core';
import { BenchModel } from '../bench-model';

/** Spacings of the grid, in percent of the crop's width, in the order of the key; 0 for none. */
export const GRID_SPACINGS: readonly number[] = [0, 25, 10, 5, 2, 1];

/** What is laid over the picture for the eye: the grid's spacing, and the guides. */
@Component({
  selector: 'ap-view-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label>
      Grid
      <select #spacing (change)="model.chooseGrid(+spacing.value)" title="Grid (G)">
        @for (percent of spacings; track percent) {
          <option [value]="percent" [selected]="percent === model.grid()">{{ percent === 0 ? 'none' : percent + ' %' }}</option>
        }
      </select>
    </label>
    @if (guides() > 0) {
      <button type="button" (click)="clear()">Clear {{ guides() }} {{ guides() === 1 ? 'guide' : 'guides' }}</button>
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
    label {
      display: flex;
      align-items: center;
      gap: 6px;
    }
    select {
      width: 72px;
      min-height: 24px;
      padding: 0 4px;
      font-size: 12.5px;
    }
    span {
      color: var(--ink-soft);
    }
    button {
      border: 0;
      background: none;
      color: inherit;
      font: inherit;
      min-height: 24px;
      text-decoration: underline;
      text-underline-offset: 3px;
      cursor: pointer;
    }
  `,
})
export class ViewStrip {
  protected readonly model = inject(BenchModel);
  protected readonly spacings = GRID_SPACINGS;
  protected readonly guides = computed(() => this.model.session.correction()?.guides.length ?? 0);

  protected clear(): void {
    this.model.session.commit((c) => withoutGuides(c));
  }
}
