import { handleFamily, type ToolDefinition } from '../tool';
import { WipeOverlay } from './wipe-overlay';

/** The line of the wipe: the original to its left, the result to its right. */
export const wipe: ToolDefinition = {
  id: 'wipe',
  step: 'check',
  name: 'Wipe',
  handles: handleFamily<null>({
    under: (tool, { at, reach }) => {
      const view = tool.view();
      const near = view && tool.compare() === 'wipe' && Math.abs(at[0] - tool.wipe() * view.stage.width) <= reach;
      return near ? { id: 'wipe', part: null } : null;
    },
    hint: () => ['ew-resize', 'Drag the wipe across: the original to its left, the result to its right.'],
    drag: (tool) => {
      const before = tool.wipe();
      return {
        move({ at }) {
          const view = tool.view();
          if (view) tool.wipe.set(Math.min(1, Math.max(0, at[0] / view.stage.width)));
        },
        release: () => false,
        cancel: () => tool.wipe.set(before),
      };
    },
  }),
  overlay: WipeOverlay,
};
