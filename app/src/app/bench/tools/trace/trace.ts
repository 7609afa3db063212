import { withNewEdge } from '@able-plumb/core';
import { beadsHint, drawBeads, finishBeads, takeBackBead, type Traced } from '../kit/draw-beads';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { traceHandles } from './trace-handles';
import { TraceMarks } from './trace-marks';

/** A traced edge tells of the lens. */
const addEdge =
  (tool: ToolContext): Traced =>
  (points, bowSdPx) => {
    let id: string | null = null;
    tool.commit((c) => {
      const next = withNewEdge(c, points, bowSdPx);
      id = next.lens.edges.at(-1)?.id ?? null;
      return next;
    });
    tool.selection.select(id);
  };

/** Edges that are straight in reality, traced bead by bead. */
export const trace: ToolDefinition = {
  id: 'trace',
  step: 'lens',
  name: 'Trace',
  icon: 'trace',
  tip: 'Trace an edge that is straight in reality',
  key: { action: 'trace', keys: ['t'], does: 'Trace an edge that is straight in reality, for the lens' },
  wholePicture: true,
  enter: 'click',
  hint: beadsHint,
  begin: (tool, at) => drawBeads(tool, at, addEdge(tool)),
  finish: (tool) => finishBeads(tool, addEdge(tool)),
  back: takeBackBead,
  handles: traceHandles,
  marks: TraceMarks,
};
