import { isCounted, newReference, withReference, withReferences, type DraftLine, type ReferenceKind } from '@able-plumb/core';
import { drawLine } from '../kit/draw-line';
import { settledOn } from '../kit/settled-on';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { lineHandles, selectedLine } from './line-handles';
import { LineMarks } from './line-marks';
import { LineQuestion } from './line-question';

const KIND_ORDER: readonly ReferenceKind[] = ['plumb', 'level', 'return', 'eye'];

/** A line becomes a reference, on the edge that it was drawn along where the magnet finds one. */
function placeReference(tool: ToolContext, draft: DraftLine): void {
  let id = '';
  const hand = tool.magnet.byHand();
  tool.place({
    ask: () => tool.magnet.edgesNear(draft.a, draft.b),
    draft,
    land: (c, fits) => {
      const { a, b, ...placed } = settledOn(draft, fits, hand);
      // at such slopes only the user knows what it is, and until then nothing moves
      const waits = draft.kind === 'return' ? { waits: true } : {};
      const reference = { ...newReference(c, a, b, placed), kind: draft.kind, ...waits };
      id = reference.id;
      return withReferences(c, [...c.references, reference]);
    },
    then: (fits) => {
      tool.magnet.noteSnapped(id, fits ?? []);
      tool.selection.select(id);
    },
  });
}

/** Changes the line that is selected; false where none is. */
function changeSelected(
  tool: ToolContext,
  change: (line: NonNullable<ReturnType<typeof selectedLine>>) => { kind: ReferenceKind } | { used: boolean },
): boolean {
  const selected = selectedLine(tool);
  if (!selected) return false;
  tool.commit((c) => withReference(c, selected.id, { ...change(selected), waits: undefined }));
  return true;
}

/** The pen: reference lines along what is plumb, level or receding, and the horizon. */
export const line: ToolDefinition = {
  id: 'line',
  step: 'references',
  name: 'Pen',
  icon: 'pen',
  tip: 'Pen: a line along something known',
  key: { action: 'pen', keys: ['p'], does: 'Pen: draw a reference line' },
  armed: true,
  wholePicture: true,
  enter: 'drag',
  actions: [
    {
      action: 'kind',
      keys: ['k'],
      does: 'Change the kind of the selected line',
      run: (tool) =>
        changeSelected(tool, ({ kind }) => ({ kind: KIND_ORDER[(KIND_ORDER.indexOf(kind) + 1) % KIND_ORDER.length] as ReferenceKind })),
    },
    {
      action: 'set-aside',
      keys: ['s'],
      does: 'Set the selected line aside, or take it back in',
      run: (tool) => changeSelected(tool, (selected) => ({ used: !isCounted(selected) })),
    },
    { action: 'next-edge', keys: ['d'], does: 'Next of several edges for the selected line', run: (tool) => tool.magnet.nextEdge() },
  ],
  hint: () => ['crosshair', 'Drag along something level or plumb, or click its two ends. Shift draws over a ring.'],
  begin: (tool, at) => drawLine(tool, at, (draft) => placeReference(tool, draft)),
  handles: lineHandles,
  marks: LineMarks,
  overlay: LineQuestion,
};
