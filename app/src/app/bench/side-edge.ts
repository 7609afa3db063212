import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatTooltip } from '@angular/material/tooltip';
import { Store } from '@ngrx/store';
import { jobsFeature } from '../state/jobs.reducer';
import { shelfActions } from '../state/shelf.actions';

/** Narrowest, widest and first width of the side, px. */
export const SIDE_PX = { least: 280, most: 560, first: 316 } as const;
const STEP_PX = 16;

/** The edge between stage and side: dragged, or moved by the arrow keys, it makes the side wider or narrower. */
@Component({
  selector: 'ap-side-edge',
  changeDetection: ChangeDetectionStrategy.OnPush,
  hostDirectives: [MatTooltip],
  template: ``,
  host: {
    role: 'separator',
    tabindex: '0',
    'aria-orientation': 'vertical',
    'aria-label': 'Width of the side',
    '[attr.aria-valuenow]': 'width()',
    '[attr.aria-valuemin]': 'bounds.least',
    '[attr.aria-valuemax]': 'bounds.most',
    '(pointerdown)': 'take($event)',
    '(pointermove)': 'move($event)',
    '(pointerup)': 'letGo()',
    '(pointercancel)': 'letGo()',
    '(dblclick)': 'keep(bounds.first)',
    '(keydown)': 'step($event)',
  },
  styles: `
    :host {
      position: absolute;
      top: 0;
      bottom: 0;
      left: -5px;
      width: 9px;
      z-index: 3;
      cursor: ew-resize;
      touch-action: none;
    }
    :host(:hover),
    :host(:focus-visible) {
      background: linear-gradient(90deg, transparent 4px, var(--ink) 4px, var(--ink) 6px, transparent 6px);
      outline: none;
    }
    @media (pointer: coarse) {
      :host {
        left: -14px;
        width: 28px;
      }
    }
  `,
})
export class SideEdge {
  private readonly store = inject(Store);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);
  protected readonly bounds = SIDE_PX;
  private readonly dragged = signal<{ readonly pointer: number; readonly from: number; readonly before: number } | null>(null);
  protected readonly width = computed(() => this.settings().sideWidth);

  constructor() {
    inject(MatTooltip).message = 'Drag for a wider side; double-click for the first width';
  }

  protected take(event: PointerEvent): void {
    if (this.dragged() || event.button !== 0) return;
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
    this.dragged.set({ pointer: event.pointerId, from: event.clientX, before: this.width() });
  }

  protected move(event: PointerEvent): void {
    const drag = this.dragged();
    if (drag?.pointer === event.pointerId) this.keep(drag.before + drag.from - event.clientX);
  }

  protected letGo(): void {
    this.dragged.set(null);
  }

  protected step(event: KeyboardEvent): void {
    const by = event.key === 'ArrowLeft' ? STEP_PX : event.key === 'ArrowRight' ? -STEP_PX : 0;
    if (by === 0) return;
    event.preventDefault();
    event.stopPropagation();
    this.keep(this.width() + by);
  }

  protected keep(width: number): void {
    const sideWidth = Math.round(Math.min(SIDE_PX.most, Math.max(SIDE_PX.least, width)));
    if (sideWidth !== this.width()) this.store.dispatch(shelfActions.settingsChanged({ change: { sideWidth } }));
  }
}
