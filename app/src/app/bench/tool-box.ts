import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { benchActions } from '../state/bench.actions';
import type { Step, ToolId } from '../state/model';
import { Hand } from './session/hand';
import { armedAt, toolOf } from './tools';

/** Takes tools into the hand, and opens steps with the tool that belongs into it there. */
@Injectable()
export class ToolBox {
  private readonly store = inject(Store);
  private readonly hand = inject(Hand);

  /** The tool in the hand; null for none. */
  inHand(): ToolId | null {
    return this.hand.tool();
  }

  take(id: ToolId): void {
    const tool = toolOf(id);
    if (tool) this.hand.take(id, tool.step);
  }

  /** Takes a tool, or lays it down where it is in the hand. */
  toggle(id: ToolId): void {
    if (this.hand.tool() === id) this.hand.layDown();
    else this.take(id);
  }

  openStep(step: Step): void {
    this.store.dispatch(benchActions.stepOpened({ step, tool: armedAt(step) }));
  }
}
