import {
  distance,
  kindBySlope,
  newReference,
  planeToScreen,
  screenToPlane,
  shownAngleDeg,
  toPicture,
  toPlane,
  withReferences,
  type Correction,
  type Point,
} from '@able-plumb/core';
import { onEdge, type BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';

/** Shortest line that is kept, screen px: a slip of the hand is no line. */
const SHORTEST_PX = 12;

/** The pen: a line by dragging, or by a click at each end. Returns null where the picture has no point. */
export function drawLine(model: BenchModel, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  const correction = model.committed();
  if (!warp || !view || !correction) return null;
  const a = toPicture(warp, screenToPlane(view, start.at));
  if (!a) return null;
  const show = (screen: Point): void => {
    const plane = screenToPlane(view, screen);
    const b = toPicture(warp, plane);
    const from = toPlane(warp, a);
    if (!b || !from) return;
    const kind = kindBySlope(from, plane);
    model.draft.set({ a, b, kind, angleDeg: shownAngleDeg(kind, from, plane), lengthPx: distance(a, b) });
    model.loupe.set({ at: plane, screen });
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      show(at);
      // a click leaves the first end and waits for the second
      if (distance(at, start.at) < CLICK_PX) return true;
      finishLine(model, SHORTEST_PX);
      return false;
    },
    cancel() {
      model.draft.set(null);
      model.loupe.set(null);
    },
  };
}

/** Turns the draft into a reference, unless it is too short to mean anything; with the magnet it settles on the edge it was drawn along. */
export function finishLine(model: BenchModel, shortestScreenPx = SHORTEST_PX): void {
  const draft = model.draft();
  const warp = model.stageWarp();
  const view = model.view();
  model.loupe.set(null);
  const [a, b] = draft && warp ? [toPlane(warp, draft.a), toPlane(warp, draft.b)] : [null, null];
  if (!draft || !view || !a || !b || distance(planeToScreen(view, a), planeToScreen(view, b)) < shortestScreenPx) {
    model.draft.set(null);
    return;
  }
  model.inOrder(async () => {
    const fits = await model.edgesNear(draft.a, draft.b);
    // taken back meanwhile; a next line that was begun stays in the hand
    if (model.draft() === null) return;
    if (model.draft() === draft) model.draft.set(null);
    let id = '';
    const fit = fits[0];
    model.commit((c: Correction) => {
      const drawn = newReference(c, draft.a, draft.b);
      const reference = { ...drawn, kind: draft.kind, ...(fit ? onEdge(fit) : {}) };
      id = reference.id;
      return withReferences(c, [...c.references, reference]);
    });
    model.snapped.set(fit ? { id, fits, index: 0 } : null);
    model.select(id);
  });
}
