import {
  distance,
  isInside,
  kindBySlope,
  midpoint,
  newReference,
  planeToScreen,
  screenToPlane,
  shownAngleDeg,
  slopeDeg,
  toPicture,
  toPlane,
  withCutPiece,
  withMeasure,
  withNewPanel,
  withReferences,
  withShimLine,
  withStraightOn,
  type Correction,
  type DraftLine,
  type Panel,
  type Point,
  type Reference,
} from '@able-plumb/core';
import type { Tool } from '../../state/model';
import type { BenchModel } from '../bench-model';
import { lyingOn, settledOn } from '../session/magnet';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';
import { NO_SHIM } from './trace-edge';

/** Shortest line that is kept, screen px: a slip of the hand is no line. */
const SHORTEST_PX = 12;

/** Whether a tool draws lines: the pen, the edges of a panel, the measuring line, the cut, a line in a shim, one that goes straight on. */
export const drawsLines = (tool: Tool): boolean =>
  tool === 'pen' || tool === 'edges' || tool === 'measure' || tool === 'cut' || tool === 'shim-line' || tool === 'fill-line';

/** The pen: a line by dragging, or by a click at each end. Returns null where the picture has no point. */
export function drawLine(model: BenchModel, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.stageView.view();
  const correction = model.session.committed();
  if (!warp || !view || !correction) return null;
  const a = toPicture(warp, screenToPlane(view, start.at));
  if (!a) return null;
  const show = (screen: Point): void => {
    const plane = screenToPlane(model.stageView.view() ?? view, screen);
    const b = toPicture(warp, plane);
    const from = toPlane(warp, a);
    if (!b || !from) return;
    const kind = kindFor(correction, from, plane);
    model.hand.draft.set({ a, b, kind, angleDeg: shownAngleDeg(kind, from, plane), lengthPx: distance(a, b) });
    model.hand.loupe.set({ at: plane, screen });
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
      model.hand.draft.set(null);
      model.hand.loupe.set(null);
    },
  };
}

/**
 * Turns the draft into what the tool in the hand makes of lines, unless it is too short to mean anything; with the magnet it settles on
 * the edge it was drawn along.
 */
export function finishLine(model: BenchModel, shortestScreenPx = SHORTEST_PX): void {
  const draft = model.hand.draft();
  const warp = model.stageWarp();
  const view = model.stageView.view();
  model.hand.loupe.set(null);
  const [a, b] = draft && warp ? [toPlane(warp, draft.a), toPlane(warp, draft.b)] : [null, null];
  if (!draft || !view || !a || !b || distance(planeToScreen(view, a), planeToScreen(view, b)) < shortestScreenPx) {
    model.hand.draft.set(null);
    return;
  }
  model.hand.draft.set(null);
  switch (model.hand.tool()) {
    case 'measure':
      // distances are measured between the very points that were pointed at
      return model.session.commit((c) => withMeasure(c, draft.a, draft.b, model.magnet.byHand().placedPx));
    case 'edges':
      return placeEdge(model, draft);
    case 'cut':
      return placeCut(model, draft);
    case 'fill-line':
      return placeStraightOn(model, draft);
    case 'shim-line':
      return placeShimLine(model, draft);
    default:
      placeReference(model, draft);
  }
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

function placeReference(model: BenchModel, draft: DraftLine): void {
  let id = '';
  const hand = model.magnet.byHand();
  model.session.place({
    ask: () => model.magnet.edgesNear(draft.a, draft.b),
    draft,
    land: (c, fits) => {
      const { a, b, ...placed } = settledOn(draft, fits, hand);
      // at such slopes only a person knows what it is, and until then nothing moves
      const waits = draft.kind === 'return' ? { waits: true } : {};
      const reference = { ...newReference(c, a, b, placed), kind: draft.kind, ...waits };
      id = reference.id;
      return withReferences(c, [...c.references, reference]);
    },
    then: (fits) => {
      model.magnet.noteSnapped(id, fits ?? []);
      model.hand.select(id);
    },
  });
}

/** The piece that the middle of a line lies on becomes two along it; with the magnet along the edge between the two prints. */
function placeCut(model: BenchModel, draft: DraftLine): void {
  const middle = midpoint(draft.a, draft.b);
  const panel = model.session.committed()?.panels.find(({ corners }) => corners && isInside(corners, middle));
  model.hand.takeTool('none');
  if (!panel) return;
  const cut = ({ a, b }: Pick<DraftLine, 'a' | 'b'>): void => model.session.changeOwn((own) => withCutPiece(own, panel.id, a, b));
  void model.magnet
    .edgesNear(draft.a, draft.b)
    .catch(() => [])
    .then((fits) => cut(lyingOn(fits)[0] ?? draft));
}

/** A line more in the shim that is worked on, on the edge that it was drawn along; the tool is laid down. */
function placeShimLine(model: BenchModel, draft: DraftLine): void {
  const shim = model.hand.shim();
  model.hand.takeTool('none');
  if (!shim) return model.hand.hint.set(NO_SHIM);
  const hand = model.magnet.byHand();
  model.session.place({
    ask: () => model.magnet.edgesNear(draft.a, draft.b),
    draft,
    land: (c, fits) => {
      const { a, b } = settledOn(draft, fits, hand);
      try {
        return withShimLine(c, shim.id, [a, b]);
      } catch (error) {
        model.refused(error);
        return c;
      }
    },
  });
}

/** A line that goes straight on into an empty part, on the edge that it was drawn along. */
function placeStraightOn(model: BenchModel, draft: DraftLine): void {
  model.hand.takeTool('none');
  const hand = model.magnet.byHand();
  model.session.place({
    ask: () => model.magnet.edgesNear(draft.a, draft.b),
    draft,
    land: (c, fits) => {
      const { a, b } = settledOn(draft, fits, hand);
      return withStraightOn(c, a, b);
    },
  });
}

/** One side more of the panel that is being marked; the fourth makes it. */
function placeEdge(model: BenchModel, draft: DraftLine): void {
  const drawn: readonly [Point, Point] = [draft.a, draft.b];
  const edges = [...model.hand.edges(), drawn];
  model.hand.edges.set(edges);
  if (edges.length < 4) {
    void model.magnet
      .edgesNear(draft.a, draft.b)
      .catch(() => [])
      .then((fits) => {
        const [fit] = lyingOn(fits);
        if (fit) model.hand.edges.update((all) => all.map((edge) => (edge === drawn ? [fit.a, fit.b] : edge)));
      });
    return;
  }
  model.hand.takeTool('none');
  const hand = model.magnet.byHand();
  model.session.place({
    ask: () => Promise.all(edges.map(([a, b]) => model.magnet.edgesNear(a, b))),
    land: (c, fits) => {
      const four = edges.map(([a, b], i) => settledOn({ a, b }, fits?.[i] ?? null, hand));
      const placedPx = Math.hypot(...four.map((line) => line.placedPx ?? 1)) / 2;
      return withNewPanel(c, { edges: four.map(({ a, b }) => [a, b]) as unknown as NonNullable<Panel['edges']>, placedPx });
    },
  });
}
