import { withShim, withShimNet } from '@able-plumb/core';
import { drawBox } from '../kit/draw-box';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { nailHeld, selectedShim, shimHandles } from './shim-handles';
import { ShimMarks } from './shim-marks';

/** Makes the net of the shim that is worked on finer or coarser; false where none is. */
function changeNet(tool: ToolContext, by: 1 | -1): boolean {
  const shim = selectedShim(tool);
  if (shim) tool.commit((c) => withShimNet(c, shim.id, by));
  return shim !== null;
}

/** A part of the result that is moved by a net while everything else stays. */
export const shim: ToolDefinition = {
  id: 'shim',
  step: 'ease',
  name: 'Shim',
  key: { action: 'shim', keys: ['a'], does: 'Shim: drag a box over a part that is to be moved' },
  enter: 'drag',
  selectsHeld: true,
  actions: [
    { action: 'nail', keys: ['o'], does: 'In a shim: nail the crossing that is held, or let it go', run: nailHeld },
    { action: 'net-finer', keys: [']'], does: 'In a shim: a finer net', run: (tool) => changeNet(tool, 1) },
    { action: 'net-coarser', keys: ['['], does: 'In a shim: a coarser net', run: (tool) => changeNet(tool, -1) },
  ],
  hint: () => ['crosshair', 'Drag a box over what is off, with some room round it: nothing outside it will move.'],
  // it is selected, so that its net can be moved
  begin: (tool, at) => {
    const before = tool.committed()?.ease.shims.length ?? 0;
    return drawBox(tool, at, withShim, ({ ease }) => {
      if (ease.shims.length > before) tool.selection.select(ease.shims.at(-1)?.id ?? null);
    });
  },
  handles: shimHandles,
  marks: ShimMarks,
};
