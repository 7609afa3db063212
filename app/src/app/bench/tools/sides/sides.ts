import { mapQuad, quadOf, withNewPanel, type DraftLine, type EdgeFit, type PlacedLine, type Point } from '@able-plumb/core';
import { drawLine } from '../kit/draw-line';
import { lyingOn, settledOn } from '../kit/settled-on';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { SidesMarks } from './sides-marks';

const HINTS = [
  'Draw a line anywhere along each of the four sides, in any order.',
  'Three more sides.',
  'Two more sides.',
  'The last side.',
];

/** One side more of the panel that is being marked; the fourth makes it. */
function placeSide(tool: ToolContext, draft: DraftLine): void {
  const { lines } = tool.drawing;
  const drawn: readonly [Point, Point] = [draft.a, draft.b];
  lines.set([...lines(), drawn]);
  const four = quadOf(lines());
  if (!four) {
    void tool.magnet
      .edgesNear(draft.a, draft.b)
      .catch(() => [])
      .then((fits) => {
        const [fit] = lyingOn(fits);
        if (fit) lines.update((all) => all.map((edge) => (edge === drawn ? [fit.a, fit.b] : edge)));
      });
    return;
  }
  tool.layDown();
  const hand = tool.magnet.byHand();
  tool.place({
    ask: (): Promise<(readonly EdgeFit[])[]> => Promise.all(four.map(([a, b]) => tool.magnet.edgesNear(a, b))),
    land: (c, fits) => {
      const settled = mapQuad(four, ([a, b], i) => settledOn({ a, b }, fits?.[i] ?? null, hand));
      const placedPx = Math.hypot(...settled.map((line) => line.placedPx ?? 1)) / 2;
      return withNewPanel(c, { edges: mapQuad(settled, ({ a, b }: PlacedLine): [PlacedLine['a'], PlacedLine['b']] => [a, b]), placedPx });
    },
  });
}

/** A panel by a line along each of its four sides, for corners that are rounded, hidden or outside. */
export const sides: ToolDefinition = {
  id: 'sides',
  step: 'references',
  name: 'Edges',
  icon: 'edges',
  tip: 'Panel by a line along each of its four sides: corners rounded, hidden or outside',
  key: { action: 'edges', keys: ['r'], does: 'Panel by a line along each of its four sides' },
  onSheet: 'too',
  wholePicture: true,
  enter: 'drag',
  hint: (tool) => ['crosshair', HINTS[tool.drawing.lines().length] ?? ''],
  begin: (tool, at) => drawLine(tool, at, (draft) => placeSide(tool, draft)),
  back(tool) {
    const some = tool.drawing.lines().length > 0;
    tool.drawing.lines.set([]);
    return some;
  },
  marks: SidesMarks,
};
