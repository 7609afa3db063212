import { withKeepBox } from '@able-plumb/core';
import { drawBox } from '../kit/draw-box';
import type { ToolDefinition } from '../tool';
import { KeepBoxMarks } from './keep-box-marks';

/** The part of the picture that no crop may cut. */
export const keepBox: ToolDefinition = {
  id: 'keep-box',
  step: 'crop',
  name: 'Keep box',
  key: { action: 'keep-box', keys: ['h'], does: 'Keep box: drag one over what no crop may cut' },
  enter: 'drag',
  hint: () => ['crosshair', 'Drag a box over what must stay in the picture.'],
  begin: (tool, at) => drawBox(tool, at, withKeepBox),
  marks: KeepBoxMarks,
};
