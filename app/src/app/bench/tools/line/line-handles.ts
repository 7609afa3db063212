import { lineMarks, movedReference, withReference, withReferences, type Correction, type LineMark, type Reference } from '@able-plumb/core';
import { moveHandle } from '../kit/move-handle';
import { nearCourse } from '../kit/near-course';
import { settledOn } from '../kit/settled-on';
import { handleFamily, type Gesture, type Hint, type PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';

/** An end of a line, or all of it. */
export type LinePart = 'a' | 'b' | 'both';

/** The reference lines as the stage draws them; none at steps that have nothing to do with them. */
export function linesOnStage(tool: ToolContext): readonly LineMark[] {
  const [view, warp, references] = [tool.view(), tool.warp(), tool.document()?.references];
  const step = tool.step();
  if (!view || !warp || !references || !tool.marks() || (step !== 'references' && step !== 'stance')) return [];
  const read = tool.readings()?.references ?? [];
  const disagreeing = new Set(read.filter((r) => r.disagrees).map((r) => r.id));
  // in use, and without a say: drawn as lines are that are set aside
  const silent = new Set(read.filter((r) => r.used && !r.counts).map((r) => r.id));
  return lineMarks(view, warp, references, tool.selection.id(), disagreeing, silent);
}

/** The line that is selected; null for none. */
export const selectedLine = (tool: Pick<ToolContext, 'document' | 'selection'>): Reference | null =>
  tool.document()?.references.find(({ id }) => id === tool.selection.id()) ?? null;

const HINTS: Readonly<Record<LinePart, Hint>> = {
  a: ['move', 'Drag to move this end; arrow keys nudge it afterwards.'],
  b: ['move', 'Drag to move this end; arrow keys nudge it afterwards.'],
  both: ['move', 'Drag to move the whole line.'],
};

/** Moves one end of a line, or all of it. The picture holds still until the release, then it is solved anew. */
export function dragLine(tool: ToolContext, reference: Reference, part: LinePart, start: PointerFacts): Gesture | null {
  tool.selection.select(reference.id);
  tool.selection.hold(part === 'both' ? null : { tool: 'line', id: reference.id, part });
  const put = (c: Correction, next: Reference): Correction => ({
    ...c,
    references: c.references.map((r) => (r.id === reference.id ? { ...r, a: next.a, b: next.b } : r)),
  });
  return moveHandle(tool, start, {
    moved: (warp, by) => movedReference(warp, reference, part, by),
    put,
    under: (next) => (part === 'both' ? null : next[part]),
    placed: (next) => {
      const hand = tool.magnet.byHand();
      tool.place({
        ask: () => tool.magnet.edgesNear(next.a, next.b),
        meanwhile: (c) => put(c, next),
        // what a hand moves is that hand's, whoever found it
        land: (c, fits) => withReference(c, reference.id, { ...settledOn(next, fits, hand), by: undefined }),
        then: (fits) => tool.magnet.noteSnapped(reference.id, fits ?? []),
      });
    },
  });
}

export const lineHandles = handleFamily<LinePart>({
  grips: (tool) =>
    linesOnStage(tool).flatMap(({ id, a, b }) => [
      { id, part: 'a', at: a },
      { id, part: 'b', at: b },
    ]),
  under: (tool, { at }) => {
    const line = linesOnStage(tool).find(({ course }) => nearCourse(at, course));
    return line ? { id: line.id, part: 'both' } : null;
  },
  hint: (_, { part }) => HINTS[part],
  drag: (tool, { id, part }, at) => {
    const reference = tool.committed()?.references.find((r) => r.id === id);
    return reference ? dragLine(tool, reference, part, at) : null;
  },
  nudge: (tool, held, by, repeat) => {
    const [warp, selected] = [tool.warp(), selectedLine(tool)];
    if (!warp || !selected || (held && held.id !== selected.id)) return false;
    const moved = movedReference(warp, selected, held?.part ?? 'both', by);
    if (moved) tool.commit((c) => withReference(c, selected.id, { ...moved, ...tool.magnet.byHand(), by: undefined }), repeat);
    return true;
  },
  // the first end, the second, the whole line
  round: (tool) => {
    const id = selectedLine(tool)?.id;
    return { of: 'selected', handles: id ? [{ tool: 'line', id, part: 'a' }, { tool: 'line', id, part: 'b' }, null] : [] };
  },
  remove: (tool) => {
    const selected = selectedLine(tool);
    if (!selected) return false;
    tool.commit((c) =>
      withReferences(
        c,
        c.references.filter((r) => r.id !== selected.id),
      ),
    );
    tool.selection.select(null);
    return true;
  },
});
