// components that tools name are compiled when a test loads them
import '@angular/compiler';
import { computed, signal } from '@angular/core';
import {
  newCorrection,
  originalOf,
  placedByHand,
  PlumbError,
  readingsOf,
  type Correction,
  type DraftLine,
  type EdgeFit,
  type FollowedEdge,
  type Point,
  type Rect,
  type View,
} from '@able-plumb/core';
import { shownWarp } from '../app/bench/session/shown-warp';
import type { Change, Placement } from '../app/bench/session/picture-session';
import { toolOf } from '../app/bench/tools';
import type { PointerFacts, ToolDefinition } from '../app/bench/tools/tool';
import type { Held, ToolContext } from '../app/bench/tools/tool-context';
import type { Step, ToolId } from '../app/state/model';

/** A pointer of a mouse on the stage, screen px. */
export const at = (x: number, y: number, held: Partial<PointerFacts> = {}): PointerFacts => ({
  at: [x, y],
  shift: false,
  alt: false,
  reach: 14,
  ...held,
});

/** A bench made by hand for one picture of 600 x 400 px, at 1:1 on a stage of its size: screen px are picture px while nothing is set. */
export function toolBench(
  setUp: { readonly step?: Step; readonly inHand?: ToolId; readonly sheet?: boolean; readonly document?: Change } = {},
) {
  const bare = newCorrection({ name: 'tower.jpg', width: 600, height: 400, focal35: 28 });
  const committed = signal<Correction>(setUp.document ? setUp.document(bare) : bare);
  const preview = signal<Correction | null>(null);
  const document = computed(() => preview() ?? committed());
  const showsOriginal = signal(false);
  const shown = computed(() => shownWarp(document()));
  const warp = computed(() => (showsOriginal() ? shownWarp(originalOf(document())).warp : shown().warp));
  const inHand = signal<ToolId | null>(setUp.inHand ?? null);
  const step = signal<Step>(setUp.step ?? (setUp.inHand ? toolOf(setUp.inHand)?.step : undefined) ?? 'references');
  const [selected, held] = [signal<string | null>(null), signal<Held | null>(null)];
  const view = signal<View>({ stage: { width: 600, height: 400 }, centre: [0, 0], scale: 1, mirrorX: false, mirrorY: false });
  /** Documents that undo would go back to. */
  const past: Correction[] = [];
  const said: string[] = [];
  const refused: string[] = [];
  const answers: (() => void)[] = [];
  /** What the magnet finds, and whether it holds. */
  const finds: { holds: boolean; edges: readonly EdgeFit[]; corner: (p: Point) => Point; course: FollowedEdge | null } = {
    holds: true,
    edges: [],
    corner: (p) => p,
    course: null,
  };
  const keep = (next: Correction): void => {
    preview.set(null);
    past.push(committed());
    committed.set(next);
  };
  const context: ToolContext = {
    step,
    sheet: setUp.sheet ?? false,
    inHand,
    document,
    committed,
    warp,
    shown,
    readings: computed(() => readingsOf(shown().correction, shown().warp)),
    showsOriginal,
    marks: signal(true),
    compare: signal(setUp.step === 'check' ? 'wipe' : 'result'),
    wipe: signal(0.5),
    view,
    look: (next) => view.set(next),
    selection: {
      id: selected,
      held,
      select(id) {
        if (held()?.id !== id) held.set(null);
        selected.set(id);
      },
      hold: (next) => held.set(next),
    },
    drawing: {
      line: signal<DraftLine | null>(null),
      box: signal<Rect | null>(null),
      points: signal<readonly Point[]>([]),
      lines: signal<readonly (readonly [Point, Point])[]>([]),
      stroke: signal<readonly Point[]>([]),
      brush: signal(false),
    },
    magnet: {
      holds: () => finds.holds,
      byHand: () => placedByHand(view().scale),
      edgesNear: async () => (finds.holds ? finds.edges : []),
      settledCorners: async (corners, which) => corners.map((p, i) => (finds.holds && which.includes(i) ? finds.corner(p) : p)),
      followed: async () => (finds.holds ? finds.course : null),
      noteSnapped: () => undefined,
      nextEdge: () => false,
    },
    loupe: signal<{ readonly at: Point; readonly screen: Point } | null>(null),
    tag: signal<{ readonly words: string; readonly at: Point } | null>(null),
    preview: (change) => preview.set(change(committed())),
    commit: (change) => keep(change(committed())),
    commitShown: () => keep(document()),
    cancel: () => preview.set(null),
    attempt(change) {
      try {
        keep(change(committed()));
      } catch (error) {
        context.refused(error);
      }
    },
    refused(error) {
      if (!(error instanceof PlumbError)) throw error;
      refused.push(error.message);
    },
    place<T>({ ask, land, then }: Placement<T>) {
      preview.set(null);
      const answer = ask();
      answers.push(() => undefined);
      void answer.then((found) => {
        keep(land(committed(), found));
        then?.(found);
        answers.pop();
      });
    },
    changeOwn: (change) => keep(change(committed())),
    say: (words) => void said.push(words),
    layDown: () => inHand.set(null),
  };
  return {
    context,
    committed,
    document,
    past,
    said,
    refused,
    finds,
    view,
    step,
    selected,
    held,
    inHand,
    showsOriginal,
    /** Waits until everything that was asked has been answered. */
    async settle(): Promise<void> {
      do await new Promise((next) => setTimeout(next));
      while (answers.length > 0);
    },
  };
}

export type ToolBench = ReturnType<typeof toolBench>;

/** Presses, goes through places and lets go; what the press began. */
export function drag(bench: ToolBench, tool: ToolDefinition, from: PointerFacts, ...to: readonly PointerFacts[]): void {
  const gesture = tool.begin?.(bench.context, from) ?? null;
  for (const place of to) gesture?.move(place);
  gesture?.release(to.at(-1) ?? from);
}

/** The handle of a tool at a place, as the stage finds it: a grip within reach, else what lies there; throws where there is none. */
export function handleAt(bench: ToolBench, tool: ToolDefinition, pointer: PointerFacts) {
  const { handles } = tool;
  const grip = handles?.grips?.(bench.context).find((g) => Math.hypot(g.at[0] - pointer.at[0], g.at[1] - pointer.at[1]) <= pointer.reach);
  const hit = grip ?? handles?.under?.(bench.context, pointer);
  if (!handles || !hit) throw new Error(`${tool.id} has nothing at ${pointer.at.join(', ')}.`);
  return { handles, hit };
}

/** Takes the handle at a place and drags it; without `to` the gesture is only begun. */
export function dragHandle(bench: ToolBench, tool: ToolDefinition, from: PointerFacts, ...to: readonly PointerFacts[]) {
  const { handles, hit } = handleAt(bench, tool, from);
  const gesture = handles.drag(bench.context, hit, from);
  for (const place of to) gesture?.move(place);
  return gesture;
}
