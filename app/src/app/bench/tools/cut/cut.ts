import { isInside, midpoint, withCutPiece, type DraftLine } from '@able-plumb/core';
import { drawLine } from '../kit/draw-line';
import { lyingOn } from '../kit/settled-on';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { CutMarks } from './cut-marks';

/** The piece that the middle of a line lies on becomes two along it; with the magnet along the edge between the two prints. */
function placeCut(tool: ToolContext, draft: DraftLine): void {
  const middle = midpoint(draft.a, draft.b);
  const piece = tool.committed()?.panels.find(({ corners }) => corners && isInside(corners, middle));
  tool.layDown();
  if (!piece) return;
  void tool.magnet
    .edgesNear(draft.a, draft.b)
    .catch(() => [])
    .then((fits) => {
      const { a, b } = lyingOn(fits)[0] ?? draft;
      tool.changeOwn((own) => withCutPiece(own, piece.id, a, b));
    });
}

/** On a sheet: a line that parts two prints in one outline. */
export const cut: ToolDefinition = {
  id: 'cut',
  step: 'references',
  name: 'Cut',
  key: { action: 'cut', keys: ['v'], does: 'On a sheet: cut a piece in two by a line' },
  onSheet: 'only',
  enter: 'drag',
  hint: () => ['crosshair', 'Draw a line between two prints, right across the outline that holds both.'],
  begin: (tool, at) => drawLine(tool, at, (draft) => placeCut(tool, draft)),
  marks: CutMarks,
};
