import { movedRing, RING_HANDLES, withoutRing, withRing, withRingChanged, type RingHandle } from '@able-plumb/core';
import { drawBox } from '../kit/draw-box';
import { moveHandle } from '../kit/move-handle';
import { removeSelected } from '../kit/remove-selected';
import { handleFamily, type ToolDefinition } from '../tool';
import { RingMarks } from './ring-marks';
import { ringsOnStage } from './rings-on-stage';

/** Shape rings over heads and round things. */
export const ring: ToolDefinition = {
  id: 'ring',
  step: 'ease',
  name: 'Shape ring',
  key: { action: 'ring', keys: ['f'], does: 'Shape ring: drag one over a head or a round thing (a figure)' },
  enter: 'drag',
  selectsHeld: true,
  hint: () => ['crosshair', 'Drag a box tightly round a head, or round something that is a circle in reality.'],
  // the ring is laid into the box; it is selected, so that what may give is asked
  begin: (tool, at) =>
    drawBox(
      tool,
      at,
      (c, warp, box) => withRing(c, warp, box, 'head'),
      (c) => tool.selection.select(c.ease.rings.at(-1)?.id ?? null),
    ),
  handles: handleFamily<RingHandle>({
    grips: (tool) => ringsOnStage(tool).flatMap(({ id, handles }) => handles.map(({ handle, at }) => ({ id, part: handle, at }))),
    hint: () => ['move', 'Drag to move or shape this ring; arrow keys nudge it afterwards.'],
    // by its middle it is moved, by an end of one of its half axes shaped
    drag: (tool, { id, part }, start) => {
      const found = tool.committed()?.ease.rings.find((r) => r.id === id);
      if (!found) return null;
      tool.selection.select(id);
      tool.selection.hold({ tool: 'ring', id, part });
      return moveHandle(tool, start, {
        moved: (warp, by) => movedRing(warp, found, part, by),
        put: (c, next) => withRingChanged(c, id, next),
        under: (next) => next[part],
      });
    },
    nudge: (tool, held, by, repeat) => {
      const warp = tool.warp();
      const found = held && tool.committed()?.ease.rings.find(({ id }) => id === held.id);
      if (!warp || !found) return false;
      const moved = movedRing(warp, found, held.part, by);
      if (moved) tool.commit((c) => withRingChanged(c, found.id, moved), repeat);
      return true;
    },
    round: (tool) => ({
      of: 'all',
      handles:
        tool.step() === 'ease'
          ? (tool.committed()?.ease.rings ?? []).flatMap(({ id }) => RING_HANDLES.map((part) => ({ tool: 'ring', id, part })))
          : [],
    }),
    remove: (tool) => removeSelected(tool, ({ ease }) => ease.rings, withoutRing),
  }),
  marks: RingMarks,
};
