import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { rulerTicks } from '@able-plumb/core';
import { BenchSwitches } from '../session/bench-switches';
import { ShownPicture } from '../session/shown-picture';
import { StageView } from '../session/stage-view';

/** The rulers at the upper and left edge of the stage; they count the turned picture's pixels from its top left corner. */
@Component({
  selector: 'ap-rulers',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="corner" aria-hidden="true"></div>
    <svg class="ruler top" aria-hidden="true" (pointerdown)="pressed.emit({ event: $event, axis: 'y' })">
      @for (tick of ticks()?.x; track tick.value) {
        <line [attr.x1]="tick.at" [attr.x2]="tick.at" y1="12" y2="20" />
        <text [attr.x]="tick.at + 4" y="12">{{ tick.value }}</text>
      }
    </svg>
    <svg class="ruler left" aria-hidden="true" (pointerdown)="pressed.emit({ event: $event, axis: 'x' })">
      @for (tick of ticks()?.y; track tick.value) {
        <line [attr.y1]="tick.at" [attr.y2]="tick.at" x1="12" x2="20" />
        <text [attr.transform]="'translate(12 ' + (tick.at - 4) + ') rotate(-90)'">{{ tick.value }}</text>
      }
    </svg>
  `,
  styles: `
    :host {
      display: contents;
    }
    .corner,
    .ruler {
      background: var(--ruler);
    }
    .ruler {
      width: 100%;
      height: 100%;
      overflow: hidden;
      touch-action: none;
      cursor: pointer;
      line {
        stroke: var(--ink-soft);
        stroke-width: 1;
      }
      text {
        fill: var(--ink-soft);
        font: 10.5px var(--font);
        font-variant-numeric: tabular-nums lining-nums;
      }
    }
    .ruler.top {
      border-bottom: 1px solid var(--line);
    }
    .ruler.left {
      border-right: 1px solid var(--line);
    }
  `,
})
export class Rulers {
  private readonly stageView = inject(StageView);
  private readonly picture = inject(ShownPicture);
  private readonly switches = inject(BenchSwitches);
  /** A press on one of them; with the axis across it, along which something brought out of it is set. */
  readonly pressed = output<{ readonly event: PointerEvent; readonly axis: 'x' | 'y' }>();

  protected readonly ticks = computed(() => {
    const [view, warp] = [this.stageView.view(), this.picture.stageWarp()];
    if (!view || !warp || this.switches.compare() === 'side') return null;
    return { x: rulerTicks(view, 'x', -warp.turnedSize.width / 2), y: rulerTicks(view, 'y', -warp.turnedSize.height / 2, 60) };
  });
}
