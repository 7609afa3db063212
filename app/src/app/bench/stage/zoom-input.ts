import { select } from 'd3-selection';
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomTransform } from 'd3-zoom';
import { panBy, zoomAt, type Point } from '@able-plumb/core';
import type { StageView } from '../session/stage-view';

/** One wheel pixel zooms by exp(this). */
const PER_PX = 0.0016;
const PX_A_LINE = 31;
const PAD_TIMES = 10;

/**
 * Wheel and two fingers zoom and pan the view. Only the input is the package's: how far and about where; the view itself is the core's.
 * @param area takes the events
 * @param onResult where a screen point lies as if the result filled the stage
 * @returns takes the listeners away
 */
export function listenToZoom(area: HTMLElement, stageView: StageView, onResult: (p: Point) => Point): () => void {
  let before: ZoomTransform = zoomIdentity;
  const behaviour = zoom<HTMLElement, unknown>()
    .filter((event: Event) => event.type === 'wheel' || (isTouch(event) && event.touches.length >= 2))
    .wheelDelta((event: WheelEvent) => {
      // two fingers on a touch pad come as a wheel with Ctrl, in small steps
      const px = event.deltaY * (event.deltaMode === 1 ? PX_A_LINE : 1) * (event.ctrlKey ? PAD_TIMES : 1);
      return -px * PER_PX * Math.LOG2E;
    })
    .on('start', () => (before = area.__zoom ?? zoomIdentity))
    .on('zoom', ({ transform, sourceEvent }: D3ZoomEvent<HTMLElement, unknown>) => {
      const factor = transform.k / before.k;
      const shift: Point = [transform.x - factor * before.x, transform.y - factor * before.y];
      before = transform;
      const view = stageView.view();
      if (!view) return;
      const at = middleOf(sourceEvent as WheelEvent | TouchEvent, area);
      // what the shift is more than zooming about that point makes of it is the way that the fingers went
      const way: Point = [shift[0] - at[0] * (1 - factor), shift[1] - at[1] * (1 - factor)];
      stageView.look(panBy(zoomAt(view, onResult(at), factor), way));
    })
    // it counts from where the view is, whoever moved it meanwhile
    .on('end', () => (area.__zoom = zoomIdentity));
  // a move that nobody keeps from the browser is its own from then on, for the second finger too
  const keep = (event: TouchEvent): void => {
    if (event.cancelable) event.preventDefault();
  };
  area.addEventListener('touchmove', keep, { passive: false });
  const selection = select(area).call(behaviour).on('dblclick.zoom', null);
  return () => {
    area.removeEventListener('touchmove', keep);
    selection.on('.zoom', null);
  };
}

declare global {
  interface HTMLElement {
    /** Where the package keeps what it counted. */
    __zoom?: ZoomTransform;
  }
}

const isTouch = (event: Event): event is TouchEvent => event.type.startsWith('touch');

/** The pointer, or the middle of two fingers, from the area's corner, px. */
function middleOf(event: WheelEvent | TouchEvent, area: HTMLElement): Point {
  const box = area.getBoundingClientRect();
  const points = isTouch(event) ? Array.from(event.touches) : [event];
  const sum = points.reduce<Point>(([x, y], p) => [x + p.clientX, y + p.clientY], [0, 0]);
  return [sum[0] / points.length - box.left, sum[1] / points.length - box.top];
}
