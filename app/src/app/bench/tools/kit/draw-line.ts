import {
  distance,
  kindBySlope,
  planeToScreen,
  screenToPlane,
  shownAngleDeg,
  slopeDeg,
  toPicture,
  toPlane,
  type Correction,
  type DraftLine,
  type Point,
  type Reference,
} from '@able-plumb/core';
import type { Gesture, PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';
import { CLICK_PX } from './pointer-way';

/** Shortest line that is kept, screen px: a slip of the hand is no line. */
const SHORTEST_PX = 12;

/**
 * A line by dragging, or by a click at each end.
 * @param made what becomes of it once it is long enough to mean something
 * @returns null where the picture has no point
 */
export function drawLine(tool: ToolContext, start: PointerFacts, made: (line: DraftLine) => void): Gesture | null {
  const warp = tool.warp();
  const view = tool.view();
  const correction = tool.committed();
  if (!warp || !view || !correction) return null;
  const a = toPicture(warp, screenToPlane(view, start.at));
  if (!a) return null;
  const show = (screen: Point): void => {
    const plane = screenToPlane(tool.view() ?? view, screen);
    const b = toPicture(warp, plane);
    const from = toPlane(warp, a);
    if (!b || !from) return;
    const kind = kindFor(correction, from, plane);
    tool.drawing.line.set({ a, b, kind, angleDeg: shownAngleDeg(kind, from, plane), lengthPx: distance(a, b) });
    tool.loupe.set({ at: plane, screen });
  };
  const finish = (): void => {
    const line = tool.drawing.line();
    tool.drawing.line.set(null);
    tool.loupe.set(null);
    if (line && isLongEnough(tool, line)) made(line);
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      show(at);
      // a click leaves the first end and waits for the second
      if (distance(at, start.at) < CLICK_PX) return true;
      finish();
      return false;
    },
    finish,
    cancel() {
      tool.drawing.line.set(null);
      tool.loupe.set(null);
    },
  };
}

function isLongEnough(tool: ToolContext, line: DraftLine): boolean {
  const [warp, view] = [tool.warp(), tool.view()];
  const [a, b] = warp ? [toPlane(warp, line.a), toPlane(warp, line.b)] : [null, null];
  return view !== null && a != null && b != null && distance(planeToScreen(view, a), planeToScreen(view, b)) >= SHORTEST_PX;
}

/** Slopes between these are asked about, degrees off the horizontal (common practice, no published source). */
const STEEP_DEG: readonly [number, number] = [18, 70];

function isAmbiguous({ stance, camera }: Correction, from: Point, to: Point): boolean {
  const slope = Math.abs(slopeDeg(from, to));
  return stance.front === 'wall' && !camera.flat && slope > STEEP_DEG[0] && slope < STEEP_DEG[1];
}

/** A line's kind by its slope. A steep one is taken to recede until the user says otherwise, since then nothing jumps. */
const kindFor = (correction: Correction, from: Point, to: Point): Reference['kind'] =>
  isAmbiguous(correction, from, to) ? 'return' : kindBySlope(from, to);
