import { movedReference, withMeasure } from '@able-plumb/core';
import { drawLine } from '../kit/draw-line';
import { moveHandle } from '../kit/move-handle';
import { handleFamily, type ToolDefinition } from '../tool';
import { LengthMarks } from './length-marks';
import { lengthsOnStage } from './lengths-on-stage';

/** A length on the plane of a panel of known size. */
export const length: ToolDefinition = {
  id: 'length',
  step: 'references',
  name: 'Length',
  icon: 'measure',
  tip: 'Measure a length on the plane of a panel of known size',
  key: { action: 'measure', keys: ['l'], does: 'Measure a length on the plane of a panel of known size' },
  enter: 'drag',
  hint: () => ['crosshair', 'Drag between two points of the panel’s plane, or click both.'],
  // distances are measured between the very points that were pointed at
  begin: (tool, at) => drawLine(tool, at, (draft) => tool.commit((c) => withMeasure(c, draft.a, draft.b, tool.magnet.byHand().placedPx))),
  handles: handleFamily<'a' | 'b'>({
    grips: (tool) =>
      lengthsOnStage(tool).flatMap(({ id, a, b }) => [
        { id, part: 'a', at: a },
        { id, part: 'b', at: b },
      ]),
    hint: () => ['move', 'Drag to move this end of the measuring line.'],
    drag: (tool, { id, part }, start) => {
      const measure = tool.committed()?.measures.find((m) => m.id === id);
      if (!measure) return null;
      return moveHandle(tool, start, {
        moved: (warp, by) => movedReference(warp, measure, part, by),
        put: (c, next) => ({
          ...c,
          measures: c.measures.map((m) => (m.id === id ? { ...next, placedPx: tool.magnet.byHand().placedPx } : m)),
        }),
        under: (next) => next[part],
      });
    },
  }),
  marks: LengthMarks,
};
