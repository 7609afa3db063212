import type { PointerFacts } from '../tools/tool';

/** How far a handle reaches for a mouse or pen, and for a finger, screen px. */
export const REACH_PX = 14;
const TOUCH_REACH_PX = 24;

/** An event of a pointer as plain data, from the corner of the stage's area. */
export function pointerFacts(event: PointerEvent, area: HTMLElement): PointerFacts {
  const box = area.getBoundingClientRect();
  return {
    at: [event.clientX - box.left, event.clientY - box.top],
    shift: event.shiftKey,
    alt: event.altKey,
    reach: event.pointerType === 'touch' ? TOUCH_REACH_PX : REACH_PX,
  };
}
