import { computed, inject, Injectable, signal } from '@angular/core';
import { planeToScreen, type Point } from '@able-plumb/core';
import { Hand } from '../session/hand';
import { PictureSession } from '../session/picture-session';
import { StageView } from '../session/stage-view';
import { toolOf } from '../tools';
import type { PointerFacts } from '../tools/tool';
import { TOOL_CONTEXT } from '../tools/tool-context';
import { REACH_PX } from './pointer-facts';
import { StageGestures } from './stage-gestures';

const pointerAt = (at: Point): PointerFacts => ({ at, shift: false, alt: false, reach: REACH_PX });

/** The pen of the keyboard: arrow keys move it over the stage, Enter places with it, Escape puts it away. */
@Injectable()
export class KeyboardPen {
  private readonly context = inject(TOOL_CONTEXT);
  private readonly session = inject(PictureSession);
  private readonly stageView = inject(StageView);
  private readonly hand = inject(Hand);
  private readonly gestures = inject(StageGestures);

  /** Where it stands, plane px; null while the pointer leads. */
  private readonly place = signal<Point | null>(null);
  readonly isOut = computed(() => this.place() !== null);
  /** Where it is seen, screen px. */
  readonly at = computed(() => {
    const [view, place] = [this.stageView.view(), this.place()];
    return view && place && planeToScreen(view, place);
  });

  putAway(): void {
    this.place.set(null);
  }

  /** Moves it by plane px; what is being drawn goes along. */
  move([dx, dy]: Point): void {
    const view = this.stageView.view();
    if (!view) return;
    const from = this.place() ?? view.centre;
    const next: Point = [from[0] + (view.mirrorX ? -dx : dx), from[1] + (view.mirrorY ? -dy : dy)];
    this.place.set(next);
    const screen = planeToScreen(view, next);
    if (this.gestures.gesture) this.gestures.gesture.move(pointerAt(screen));
    else this.hand.loupe.set({ at: next, screen });
  }

  /** Places an end of a line, a corner of a panel or box, or a bead; or ends what takes several. */
  finish(): void {
    const { gesture } = this.gestures;
    const view = this.stageView.view();
    const tool = toolOf(this.hand.tool());
    if (gesture?.finish && this.hand.drawing.line()) {
      gesture.finish();
      this.gestures.end();
      return;
    }
    if (!view || !tool?.begin || !tool.enter) return;
    if (!this.place() && tool.finish?.(this.context)) return;
    const at = this.place() ?? view.centre;
    const pointer = pointerAt(planeToScreen(view, at));
    if (gesture) {
      // one corner of a box, then the one across
      this.hand.loupe.set(null);
      gesture.release(pointer);
      this.gestures.end();
      this.place.set(null);
      return;
    }
    this.place.set(at);
    const begun = tool.begin(this.context, pointer);
    if (tool.enter === 'drag') {
      if (!this.hand.drawing.line()) this.hand.loupe.set(null);
      this.gestures.begin(begun);
    } else begun?.release(pointer);
  }

  /** One step back; false where there is nothing to take back. */
  back(): boolean {
    if (this.gestures.gesture) {
      this.gestures.cancel();
      this.hand.loupe.set(null);
      return true;
    }
    if (this.session.takeBack()) return true;
    if (!this.isOut()) return false;
    this.putAway();
    this.hand.loupe.set(null);
    return true;
  }
}
