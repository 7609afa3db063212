import { computed, inject, Injectable, signal } from '@angular/core';
import { nearestHandle, panBy } from '@able-plumb/core';
import { BenchSwitches } from '../session/bench-switches';
import { PictureSession } from '../session/picture-session';
import { TOOLS, toolOf } from '../tools';
import type { Gesture, Grip, Hint, Hit, PointerFacts, ToolDefinition } from '../tools/tool';
import { TOOL_CONTEXT } from '../tools/tool-context';

/** With a tool in the hand a handle reaches no farther than its ring, so that a line can start where another ends, screen px. */
const RING_PX = 8;
const PAN_HINT: Hint = ['grab', 'Drag to move the picture. Wheel zooms.'];

interface Target {
  readonly tool: ToolDefinition;
  readonly hit: Hit;
}

/** One gesture at a time: what a press begins, and what lasts until its release. */
@Injectable()
export class StageGestures {
  private readonly context = inject(TOOL_CONTEXT);
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);

  private readonly lasting = signal<Gesture | null>(null);
  /** Whether the pointer or the pen of the keyboard drags something. */
  readonly active = computed(() => this.lasting() !== null);
  /** Space is held: a press moves the picture. */
  readonly panning = signal(false);
  private lastPicked: string | undefined;

  private readonly inHand = computed(() => toolOf(this.context.inHand()));

  /** All points that can be dragged now. */
  private readonly grips = computed(() => {
    const inHand = this.inHand();
    return TOOLS.filter((tool) => !inHand?.alone || tool === inHand).flatMap((tool) =>
      (tool.handles?.grips?.(this.context) ?? []).map((grip: Grip) => ({
        id: `${tool.id} ${grip.id} ${JSON.stringify(grip.part)}`,
        at: grip.at,
        target: { tool, hit: grip },
      })),
    );
  });

  get gesture(): Gesture | null {
    return this.lasting();
  }

  begin(gesture: Gesture | null): void {
    this.lasting.set(gesture);
  }

  end(): void {
    this.lasting.set(null);
    this.switches.settingOutPicked.set(false);
  }

  cancel(): void {
    this.lasting()?.cancel();
    this.end();
  }

  /** What a press begins. */
  at(pointer: PointerFacts): Gesture | null {
    const { context } = this;
    if (this.session.loading().state !== 'ready' || !context.committed()) return null;
    if (this.session.elsewhere() || this.panning()) return this.pan(pointer);
    const target = this.targetAt(pointer);
    if (target) return target.tool.handles?.drag(context, target.hit, pointer) ?? null;
    const inHand = this.inHand();
    if (inHand) return inHand.begin ? inHand.begin(context, pointer) : this.pan(pointer);
    for (const tool of this.atRest()) {
      const gesture = tool.begin?.(context, pointer);
      if (gesture) return gesture;
    }
    const around = TOOLS.map((tool) => tool.handles?.around?.(context, pointer)).find((id) => id != null);
    context.selection.select(around ?? null);
    return this.pan(pointer);
  }

  /** The shape of the pointer, and what a press would do. */
  hintAt(pointer: PointerFacts): Hint {
    const { context } = this;
    if (this.session.elsewhere() || this.panning()) return PAN_HINT;
    const target = this.targetAt(pointer, false);
    if (target?.tool.handles) return target.tool.handles.hint(context, target.hit);
    const inHand = this.inHand();
    if (inHand?.hint) return inHand.hint(context, pointer) ?? PAN_HINT;
    for (const tool of inHand ? [] : this.atRest()) {
      const hint = tool.hint?.(context, pointer);
      if (hint) return hint;
    }
    return PAN_HINT;
  }

  /** Moves the view with the pointer. */
  pan(start: PointerFacts): Gesture | null {
    const view = this.context.view();
    if (!view) return null;
    return {
      move: ({ at }) => this.context.look(panBy(view, [at[0] - start.at[0], at[1] - start.at[1]])),
      release: () => false,
      cancel: () => this.context.look(view),
    };
  }

  /** Tools that answer with nothing in the hand. */
  private atRest(): readonly ToolDefinition[] {
    return TOOLS.filter((tool) => tool.atRest && tool.step === this.context.step());
  }

  /** The thing that a press would take hold of; null for none. Shift with a tool in the hand always draws. */
  private targetAt(pointer: PointerFacts, picks = true): Target | null {
    const { context } = this;
    const inHand = this.inHand();
    const drawing = inHand !== null && !inHand.alone;
    const near =
      drawing && pointer.shift
        ? null
        : nearestHandle(this.grips(), pointer.at, drawing ? Math.min(pointer.reach, RING_PX) : pointer.reach, this.lastPicked);
    // where two handles overlap, the next press takes the other one
    if (picks) this.lastPicked = near?.id;
    if (near) return near.target;
    if (inHand) return null;
    for (const tool of TOOLS) {
      const hit = tool.handles?.under?.(context, pointer);
      if (hit) return { tool, hit };
    }
    return null;
  }
}
