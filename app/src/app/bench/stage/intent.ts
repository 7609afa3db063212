import type { BenchModel } from '../bench-model';
import { cropIntent } from './drag-crop';
import type { PointerFacts } from './gesture';
import type { Target } from './target-at';

/** The pointer's shape, and what a press would do, in words. */
export type Intent = readonly [shape: string, hint: string];

const TARGET_HINTS: Readonly<Record<Target['kind'], string>> = {
  guide: 'Drag the guide; drag it off the stage to remove it.',
  corner: 'Drag to move this corner; arrow keys nudge it afterwards.',
  end: 'Drag to move this end; arrow keys nudge it afterwards.',
  line: 'Drag to move the whole line.',
  side: 'Drag to move this side; a click selects its piece.',
  bead: 'Drag to move this bead; arrow keys nudge it afterwards.',
  trace: 'Click to select this edge.',
  ring: 'Drag to move or shape this ring; arrow keys nudge it afterwards.',
  shim: 'Drag to move this part of the net; O nails a crossing, arrow keys nudge it.',
  'shim-box': 'Click to work on this shim.',
  boundary: 'Drag the boundary; it settles on an edge that hides it.',
  measure: 'Drag to move this end of the measuring line.',
  margin: 'Drag the margin outwards or inwards; the crop follows.',
};
const CORNER_HINTS = [
  'Click the corners of a rectangle, or drag its diagonal.',
  'Three more corners.',
  'Two more corners.',
  'The last corner.',
];
const EDGE_HINTS = [
  'Draw a line anywhere along each of the four sides, in any order.',
  'Three more sides.',
  'Two more sides.',
  'The last side.',
];

/** The magnet follows the edge between two ends; without it every bead is set by hand. */
const TRACE_HINTS = {
  magnet: [
    'Click both ends of an edge that is straight in reality, or drag from end to end: the edge between them is followed.',
    'Now its other end.',
    'Click along the edge; Enter, or a click on the last bead, ends the trace.',
  ],
  hand: [
    'Click along an edge that is straight in reality, from one end to the other: the magnet is off, so each click sets a bead.',
    'Now the next bead along it.',
    'Go on along the edge; Enter, or a click on the last bead, ends the trace.',
  ],
} as const;

/** Over something that can be taken hold of; null over nothing. */
export function targetIntent(target: Target | null): Intent | null {
  if (!target) return null;
  const across =
    (target.kind === 'shim' && target.which.of === 'column') ||
    ((target.kind === 'guide' || target.kind === 'boundary') && target.axis === 'x') ||
    (target.kind === 'margin' && (target.side === 'left' || target.side === 'right'));
  const shape =
    target.kind === 'trace' || target.kind === 'shim-box'
      ? 'pointer'
      : (target.kind === 'shim' && (target.which.of === 'column' || target.which.of === 'row')) ||
          target.kind === 'guide' ||
          target.kind === 'boundary' ||
          target.kind === 'margin'
        ? across
          ? 'ew-resize'
          : 'ns-resize'
        : 'move';
  return [shape, TARGET_HINTS[target.kind]];
}

export const pullIntent = (overHandle: boolean): Intent =>
  overHandle
    ? ['move', 'Pull; with Shift the other side goes along.']
    : ['grab', 'Pull the corners or sides by eye. Drag elsewhere to move the picture.'];

/** With a drawing tool in the hand; null without. */
export function toolIntent(model: BenchModel): Intent | null {
  switch (model.hand.tool()) {
    case 'panel':
      return ['crosshair', CORNER_HINTS[model.hand.corners().length] ?? ''];
    case 'edges':
      return ['crosshair', EDGE_HINTS[model.hand.edges().length] ?? ''];
    case 'measure':
      return ['crosshair', 'Drag between two points of the panel’s plane, or click both.'];
    case 'cut':
      return ['crosshair', 'Draw a line between two prints, right across the outline that holds both.'];
    case 'pen':
      return ['crosshair', 'Drag along something level or plumb, or click its two ends. Shift draws over a ring.'];
    case 'shim':
      return ['crosshair', 'Drag a box over what is off, with some room round it: nothing outside it will move.'];
    case 'shim-line':
      return ['crosshair', 'Drag along what should be level, plumb or straight.'];
    case 'shim-trace':
    case 'trace':
      return ['crosshair', TRACE_HINTS[model.settings().magnet ? 'magnet' : 'hand'][Math.min(2, model.hand.beads().length)] ?? ''];
    case 'ring':
      return ['crosshair', 'Drag a box tightly round a head, or round something that is a circle in reality.'];
    case 'keep':
      return ['crosshair', 'Drag a box over what must stay in the picture.'];
    case 'fill-not':
      return ['crosshair', 'Drag over what must not be copied into the empty part.'];
    case 'fill-only':
      return ['crosshair', 'Drag over what alone may be copied into the empty part.'];
    case 'fill-line':
      return ['crosshair', 'Drag along an edge up to the empty part: there it goes straight on.'];
    case 'pull':
    case 'none':
      return null;
  }
}

export function cropOrPanIntent(model: BenchModel, pointer: PointerFacts): Intent {
  const view = model.stageView.view();
  const shown = model.shown();
  if (model.knot() !== 'crop' || !view || !shown || model.showsOriginal()) return ['grab', 'Drag to move the picture. Wheel zooms.'];
  const intent = cropIntent(view, shown.warp.crop, pointer);
  if (intent.kind === 'turn') return ['alias', 'Drag to turn the picture.'];
  if (intent.kind === 'fresh') return ['crosshair', 'Drag a fresh crop.'];
  if (intent.part === 'inside') return ['move', 'Drag to move the crop.'];
  return [`${intent.part}-resize`, 'Drag to change the crop. Shift keeps the proportions, Alt goes from the centre.'];
}
