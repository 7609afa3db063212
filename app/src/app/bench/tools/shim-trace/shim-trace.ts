import { withShimLine } from '@able-plumb/core';
import { beadsHint, drawBeads, finishBeads, takeBackBead, type Traced } from '../kit/draw-beads';
import { NO_SHIM } from '../shim/no-shim';
import { selectedShim } from '../shim/shim-handles';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { ShimTraceMarks } from './shim-trace-marks';

/** What is traced in a shim becomes straight; it says nothing about the lens. */
const straighten =
  (tool: ToolContext): Traced =>
  (points) => {
    const shim = selectedShim(tool);
    tool.layDown();
    if (!shim) tool.say(NO_SHIM);
    else tool.attempt((c) => withShimLine(c, shim.id, points, 'straight'));
  };

/** A bent edge in a shim that becomes straight. */
export const shimTrace: ToolDefinition = {
  id: 'shim-trace',
  step: 'ease',
  name: 'Trace in the shim',
  enter: 'click',
  hint: beadsHint,
  begin: (tool, at) => drawBeads(tool, at, straighten(tool)),
  finish: (tool) => finishBeads(tool, straighten(tool)),
  back: takeBackBead,
  marks: ShimTraceMarks,
};
