import {
  distance,
  movedBead,
  orderedBeads,
  planeToScreen,
  screenToPlane,
  toPicture,
  toPlane,
  withEdges,
  withNewEdge,
  withShimLine,
  type Correction,
  type Point,
  type TracedEdge,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

/** A click this near to the last bead ends the trace, screen px. */
const SAME_BEAD_PX = 7;
/** What is said where a line was drawn for a shim and none is worked on any more. */
export const NO_SHIM = 'Click the shim first that the line is for; nothing was changed.';
/** Fewer beads say nothing about a bow. */
const LEAST_BEADS = 3;

/**
 * The trace: a bead by a click; or both ends by dragging from one to the other. With the magnet the edge between the first two beads is
 * followed, and that is the trace; without it, or where there is nothing to follow, bead after bead until Enter.
 */
export function traceEdge(model: BenchModel, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.stageView.view();
  if (!warp || !view) return null;
  const before = model.hand.beads();
  const last = before.at(-1);
  const lastPlane = last && toPlane(warp, last);
  if (before.length >= LEAST_BEADS && lastPlane && distance(planeToScreen(view, lastPlane), start.at) < SAME_BEAD_PX) {
    finishTrace(model);
    return null;
  }
  const pictureAt = (screen: Point): Point | null => toPicture(warp, screenToPlane(model.stageView.view() ?? view, screen));
  const first = pictureAt(start.at);
  if (!first) return null;
  const show = (screen: Point): void => {
    const at = pictureAt(screen);
    if (!at) return;
    // a drag carries the other end; with beads already there it moves the new one
    const dragged = before.length === 0 && distance(screen, start.at) >= CLICK_PX;
    model.hand.beads.set(dragged ? [first, at] : [...before, distance(screen, start.at) >= CLICK_PX ? at : first]);
    model.hand.loupe.set({ at: screenToPlane(model.stageView.view() ?? view, screen), screen });
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      show(at);
      model.hand.loupe.set(null);
      if (model.hand.beads().length === 2) followTrace(model);
      return false;
    },
    cancel() {
      model.hand.beads.set(before);
      model.hand.loupe.set(null);
    },
  };
}

/** With two beads in the hand: follows the edge between them. */
function followTrace(model: BenchModel): void {
  const beads = model.hand.beads();
  const [a, b] = beads;
  if (!a || !b || beads.length !== 2) return;
  void model.magnet
    .followed(a, b)
    .catch(() => null)
    .then((edge) => {
      // more beads were placed, or the trace was taken back meanwhile
      if (model.hand.beads() !== beads) return;
      if (edge) addEdge(model, edge.points, edge.bowSdPx);
      else
        model.hand.hint.set(
          model.settings().magnet && !model.magnet.letGo()
            ? 'No edge could be followed between these ends. Click along it; Enter ends the trace.'
            : 'Click along the edge; Enter, or a click on the last bead, ends the trace.',
        );
    });
}

/** Makes an edge of the beads in the hand, where there are enough. */
export function finishTrace(model: BenchModel): void {
  const beads = model.hand.beads();
  if (beads.length < LEAST_BEADS) {
    model.hand.hint.set('Three beads are the least that can show a bow.');
    return;
  }
  addEdge(model, orderedBeads(beads));
}

function addEdge(model: BenchModel, points: readonly Point[], bowSd?: number): void {
  const inShim = model.hand.tool() === 'shim-trace';
  model.hand.beads.set([]);
  if (inShim) {
    // what is traced in a shim becomes straight; it says nothing about the lens
    const shim = model.hand.shim();
    model.hand.takeTool('none');
    if (!shim) model.hand.hint.set(NO_SHIM);
    else model.attempt((c) => withShimLine(c, shim.id, points, 'straight'));
    return;
  }
  let id: string | null = null;
  model.session.commit((c) => {
    const next = withNewEdge(c, points, bowSd);
    id = next.lens.edges.at(-1)?.id ?? null;
    return next;
  });
  model.hand.select(id);
}

/** Moves one bead of a traced edge; the picture holds still until the release. */
export function dragBead(model: BenchModel, edge: TracedEdge, index: number, start: PointerFacts): Gesture | null {
  model.hand.select(edge.id);
  model.hand.held.set({ kind: 'bead', id: edge.id, index });
  const put = (c: Correction, next: TracedEdge): TracedEdge[] => c.lens.edges.map((e) => (e.id === edge.id ? next : e));
  return moveHandle(model, start, {
    moved: (warp, by) => movedBead(warp, edge, index, by),
    put: (c, next) => ({ ...c, lens: { ...c.lens, edges: put(c, next) } }),
    under: (next) => next.points[index] ?? null,
    placed: (placed) => model.session.commit((c) => withEdges(c, put(c, placed))),
  });
}
