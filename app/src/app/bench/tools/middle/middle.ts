import { screenToPlane } from '@able-plumb/core';
import type { ToolDefinition } from '../tool';

/** A trial: a click says how far it lies from the middle of the picture. */
export const middle: ToolDefinition = {
  id: 'middle',
  step: 'stance',
  name: 'From the middle',
  icon: 'measure',
  tip: 'How far a place lies from the middle of the picture',
  key: { action: 'middle', keys: ['Shift+m'], does: 'How far a place lies from the middle of the picture' },
  enter: 'click',
  hint: () => ['crosshair', 'Click a place.'],
  begin(tool, { at }) {
    const view = tool.view();
    const plane = view && screenToPlane(view, at);
    return (
      plane && {
        move: () => undefined,
        release: () => (tool.say(`${Math.hypot(...plane).toFixed(0)} px from the middle.`), false),
        cancel: () => undefined,
      }
    );
  },
};
