import { distance, orderedBeads, planeToScreen, screenToPlane, toPicture, toPlane, type Point } from '@able-plumb/core';
import type { Gesture, Hint, PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';
import { CLICK_PX } from './pointer-way';

/** A click this near to the last bead ends the trace, screen px. */
const SAME_BEAD_PX = 7;
/** Fewer beads say nothing about a bow. */
const LEAST_BEADS = 3;

/** What becomes of a traced edge. */
export type Traced = (points: readonly Point[], bowSdPx?: number) => void;

/** The magnet follows the edge between two ends; without it every bead is set by hand. */
const HINTS = {
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

export const beadsHint = (tool: ToolContext): Hint => [
  'crosshair',
  HINTS[tool.magnet.holds() ? 'magnet' : 'hand'][Math.min(2, tool.drawing.points().length)] ?? '',
];

/**
 * A trace: a bead by a click, or both ends by dragging from one to the other. With the magnet the edge between the first two beads is
 * followed, and that is the trace; without it, or where there is nothing to follow, bead after bead until Enter.
 */
export function drawBeads(tool: ToolContext, start: PointerFacts, traced: Traced): Gesture | null {
  const warp = tool.warp();
  const view = tool.view();
  if (!warp || !view) return null;
  const { points } = tool.drawing;
  const before = points();
  const last = before.at(-1);
  const lastPlane = last && toPlane(warp, last);
  if (before.length >= LEAST_BEADS && lastPlane && distance(planeToScreen(view, lastPlane), start.at) < SAME_BEAD_PX) {
    finishBeads(tool, traced);
    return null;
  }
  const pictureAt = (screen: Point): Point | null => toPicture(warp, screenToPlane(tool.view() ?? view, screen));
  const first = pictureAt(start.at);
  if (!first) return null;
  const show = (screen: Point): void => {
    const at = pictureAt(screen);
    if (!at) return;
    // a drag carries the other end; with beads already there it moves the new one
    const dragged = distance(screen, start.at) >= CLICK_PX;
    points.set(before.length === 0 && dragged ? [first, at] : [...before, dragged ? at : first]);
    tool.loupe.set({ at: screenToPlane(tool.view() ?? view, screen), screen });
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      show(at);
      tool.loupe.set(null);
      if (points().length === 2) follow(tool, traced);
      return false;
    },
    cancel() {
      points.set(before);
      tool.loupe.set(null);
    },
  };
}

/** With two beads placed: follows the edge between them. */
function follow(tool: ToolContext, traced: Traced): void {
  const beads = tool.drawing.points();
  const [a, b] = beads;
  if (!a || !b || beads.length !== 2) return;
  void tool.magnet
    .followed(a, b)
    .catch(() => null)
    .then((edge) => {
      // more beads were placed, or the trace was taken back meanwhile
      if (tool.drawing.points() !== beads) return;
      if (edge) keep(tool, traced, edge.points, edge.bowSdPx);
      else
        tool.say(
          tool.magnet.holds()
            ? 'No edge could be followed between these ends. Click along it; Enter ends the trace.'
            : 'Click along the edge; Enter, or a click on the last bead, ends the trace.',
        );
    });
}

/** Makes an edge of the beads that were placed, where there are enough; false where there are none. */
export function finishBeads(tool: ToolContext, traced: Traced): boolean {
  const beads = tool.drawing.points();
  if (beads.length === 0) return false;
  if (beads.length < LEAST_BEADS) tool.say('Three beads are the least that can show a bow.');
  else keep(tool, traced, orderedBeads(beads));
  return true;
}

function keep(tool: ToolContext, traced: Traced, points: readonly Point[], bowSdPx?: number): void {
  tool.drawing.points.set([]);
  traced(points, bowSdPx);
}

/** Takes back the bead that was placed last. */
export function takeBackBead(tool: ToolContext): boolean {
  const beads = tool.drawing.points();
  tool.drawing.points.set(beads.slice(0, -1));
  return beads.length > 0;
}
