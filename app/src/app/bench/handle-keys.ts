import { inject, Injectable } from '@angular/core';
import type { Point } from '@able-plumb/core';
import { Hand } from './session/hand';
import { KeyboardPen } from './stage/keyboard-pen';
import { TOOLS, toolOf } from './tools';
import { TOOL_CONTEXT, type Held } from './tools/tool-context';

const sameHeld = (a: Held | null, b: Held | null): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The keyboard on what tools draw: goes from handle to handle, moves what is held or selected, removes it. */
@Injectable()
export class HandleKeys {
  private readonly context = inject(TOOL_CONTEXT);
  private readonly hand = inject(Hand);
  private readonly pen = inject(KeyboardPen);

  /** Moves what is held or selected by plane px; false where nothing is, and while the pen of the keyboard goes first. */
  nudge(by: Point, key: string): boolean {
    const { context } = this;
    if (this.hand.tool() === null && TOOLS.some((tool) => tool.atRest && tool.step === context.step() && tool.nudge?.(context, by, key)))
      return true;
    const held = this.hand.held();
    // a line just drawn with the keyboard's pen is followed by the next; what was taken into the hand goes before the pen
    if (!context.warp() || this.hand.drawing.line() || (this.pen.isOut() && !held)) return false;
    const repeat = `${key} ${JSON.stringify(held)} ${this.hand.id()}`;
    if (held && toolOf(held.tool)?.handles?.nudge?.(context, held, by, repeat)) return true;
    return TOOLS.some((tool) => tool.handles?.nudge?.(context, null, by, repeat));
  }

  /** Holds the next handle of what is selected, or else of all that have some; false where there is none. */
  next(): boolean {
    const rounds = TOOLS.map((tool) => tool.handles?.round?.(this.context)).filter((round) => round !== undefined);
    const selected = rounds.find(({ of, handles }) => of === 'selected' && handles.length > 0);
    const handles = selected?.handles ?? rounds.filter(({ of }) => of === 'all').flatMap((round) => round.handles);
    const next = handles[(handles.findIndex((handle) => sameHeld(handle, this.hand.held())) + 1) % handles.length];
    if (next === undefined) return false;
    if (next && next.id !== this.hand.id() && toolOf(next.tool)?.selectsHeld) this.hand.select(next.id);
    this.hand.hold(next);
    return true;
  }

  /** Removes what is selected or held; false where nothing is. */
  remove(): boolean {
    return TOOLS.some((tool) => tool.handles?.remove?.(this.context));
  }
}
