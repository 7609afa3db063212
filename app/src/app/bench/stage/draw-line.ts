import {
  distance,
  kindBySlope,
  newReference,
  planeToScreen,
  screenToPlane,
  shownAngleDeg,
  slopeDeg,
  toPicture,
  toPlane,
  withMeasure,
  withNewPanel,
  withReferences,
  type Correction,
  type EdgeFit,
  type Panel,
  type Point,
  type Reference,
} from '@able-plumb/core';
import type { Tool } from '../../state/model';
import { onEdge, type BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';

/** Shortest line that is kept, screen px: a slip of the hand is no line. */
const SHORTEST_PX = 12;

/** Whether a tool draws lines: the pen, the edges of a panel, the measuring line. */
export const drawsLines = (tool: Tool): boolean => tool === 'pen' || tool === 'edges' || tool === 'measure';

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
    const kind = kindFor(correction, from, plane);
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

/**
 * Turns the draft into what the tool in the hand makes of lines, unless it is too short to mean anything; with the magnet it settles on
 * the edge it was drawn along.
 */
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
  const tool = model.tool();
  model.inOrder(async () => {
    // distances are measured between the very points that were pointed at
    const fits = tool === 'measure' ? [] : await model.edgesNear(draft.a, draft.b);
    // taken back meanwhile; a next line that was begun stays in the hand
    if (model.draft() === null) return;
    if (model.draft() === draft) model.draft.set(null);
    const ends = fits[0] ? onEdge(fits[0]) : { a: draft.a, b: draft.b };
    switch (tool) {
      case 'measure':
        return model.commit((c) => withMeasure(c, ends.a, ends.b));
      case 'edges':
        return addEdge(model, [ends.a, ends.b]);
      default:
        addReference(model, draft.kind, ends, fits);
        // in rooms many level edges go back from the front; at such slopes only a person knows
        if (draft.kind === 'return') model.asks.set(model.selectedId());
    }
  });
}

/** Slopes between these are asked about, degrees off the horizontal (common practice, no published source). */
const STEEP_DEG: readonly [number, number] = [18, 70];

function isAmbiguous({ stance, camera }: Correction, from: Point, to: Point): boolean {
  const slope = Math.abs(slopeDeg(from, to));
  return stance.front === 'wall' && !camera.flat && slope > STEEP_DEG[0] && slope < STEEP_DEG[1];
}

/** A line's kind by its slope; where that is steep it is taken to go back until a person says otherwise, since then nothing jumps. */
const kindFor = (correction: Correction, from: Point, to: Point): Reference['kind'] =>
  isAmbiguous(correction, from, to) ? 'return' : kindBySlope(from, to);

function addReference(
  model: BenchModel,
  kind: Reference['kind'],
  ends: { readonly a: Point; readonly b: Point },
  fits: readonly EdgeFit[],
): void {
  let id = '';
  model.commit((c: Correction) => {
    const reference = { ...newReference(c, ends.a, ends.b), kind };
    id = reference.id;
    return withReferences(c, [...c.references, reference]);
  });
  model.noteSnapped(id, fits);
  model.select(id);
}

/** One side more of the panel that is being marked; the fourth makes it. */
function addEdge(model: BenchModel, edge: readonly [Point, Point]): void {
  const edges = [...model.edges(), edge];
  model.edges.set(edges);
  if (edges.length < 4) return;
  const four = edges.map(([a, b]) => [[...a], [...b]]) as unknown as NonNullable<Panel['edges']>;
  model.takeTool('none');
  model.commit((c) => withNewPanel(c, { edges: four }));
}
