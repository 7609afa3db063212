import {
  edgeEasesOnPlane,
  movedBead,
  movedRing,
  RING_HANDLES,
  shimHandles,
  shimsOnPlane,
  withBoundary,
  withRingChanged,
  movedPanelPoint,
  movedReference,
  panelPoints,
  withEdges,
  withPanel,
  withPlacedPoint,
  withReference,
  type PlaneWarp,
  type Point,
} from '@able-plumb/core';
import type { BenchModel } from './bench-model';
import { nudgeShim } from './stage/drag-shim';
import type { HeldHandle } from './session/hand';

/**
 * Moves the held end, corner or bead, or the whole selected line, by a way on the plane; false where nothing is selected. Repeats of one key
 * on one thing are one step.
 */
export function nudgeHandle(model: BenchModel, warp: PlaneWarp, by: Point, key: string): boolean {
  const step = `${key} ${JSON.stringify(model.hand.held())} ${model.hand.selectedId()}`;
  const held = model.hand.held();
  const correction = model.session.committed();
  const panel = held?.kind === 'corner' && correction?.panels.find((p) => p.id === held.id);
  if (panel) {
    const moved = movedPanelPoint(warp, panel, held.index, by);
    if (moved) model.session.commit((c) => withPanel(c, panel.id, withPlacedPoint(moved, model.magnet.byHand().placedPx)), step);
    return true;
  }
  const edge = held?.kind === 'bead' && correction?.lens.edges.find((e) => e.id === held.id);
  if (edge) {
    const moved = movedBead(warp, edge, held.index, by);
    if (moved)
      model.session.commit(
        (c) =>
          withEdges(
            c,
            c.lens.edges.map((e) => (e.id === edge.id ? moved : e)),
          ),
        step,
      );
    return true;
  }
  const ring = held?.kind === 'ring' && correction?.ease.rings.find((r) => r.id === held.id);
  if (ring) {
    const moved = movedRing(warp, ring, held.handle, by);
    if (moved) model.session.commit((c) => withRingChanged(c, ring.id, moved), step);
    return true;
  }
  const boundary = held?.kind === 'boundary' && correction && edgeEasesOnPlane(correction, warp).find(({ edge }) => edge.id === held.id);
  if (boundary) {
    model.session.commit((c) => withBoundary(c, boundary.edge.id, boundary.from + by[boundary.k]), step);
    return true;
  }
  if (held?.kind === 'shim' && correction) {
    nudgeShim(model, held.id, held.handle, by, step);
    return true;
  }
  const selected = model.hand.selected();
  if (!selected) return false;
  const moved = movedReference(warp, selected, held?.kind === 'end' && held.id === selected.id ? held.which : 'both', by);
  if (moved) model.session.commit((c) => withReference(c, selected.id, { ...moved, ...model.magnet.byHand(), by: undefined }), step);
  return true;
}

const FIRST_CROSSING = { of: 'crossing', column: 0, row: 0 } as const;

/** Whole line, first end, second end, and round again; the beads of a selected edge; at Ease the net of the shim that is worked on, or rings and boundaries; else the handles of the panels. */
export function nextHandle(model: BenchModel): boolean {
  const held = model.hand.held();
  const ease = model.session.committed()?.ease;
  if (ease && model.knot() === 'ease') {
    const shown = model.shown();
    const shim = shown && shimsOnPlane(shown.correction, shown.warp).find(({ shim: { id } }) => id === model.hand.selectedId());
    const handles: HeldHandle[] = shim
      ? shimHandles(shim).map(({ handle }) => ({ kind: 'shim' as const, id: shim.shim.id, handle }))
      : [
          ...ease.rings.flatMap(({ id }) => RING_HANDLES.map((handle) => ({ kind: 'ring' as const, id, handle }))),
          ...ease.edges.map(({ id }) => ({ kind: 'boundary' as const, id })),
          ...ease.shims.map(({ id }) => ({ kind: 'shim' as const, id, handle: FIRST_CROSSING })),
        ];
    const at = handles.findIndex((h) => JSON.stringify(h) === JSON.stringify(held));
    const next = handles[(at + 1) % handles.length];
    if (next) model.hand.select(next.id);
    model.hand.held.set(next ?? null);
    return next !== undefined;
  }
  const piece = model.hand.piece();
  if (piece !== null) {
    // the corners of the piece that is worked on, and round again
    const at = held?.kind === 'corner' && held.id === piece ? held.index + 1 : 0;
    model.hand.select(piece);
    model.hand.held.set({ kind: 'corner', id: piece, index: at % 4 });
    return true;
  }
  const selected = model.hand.selected();
  if (selected) {
    const which = held?.kind !== 'end' || held.id !== selected.id ? 'a' : held.which === 'a' ? 'b' : null;
    model.hand.held.set(which && { kind: 'end', id: selected.id, which });
    return true;
  }
  const handles = (model.session.committed()?.panels ?? []).flatMap((panel) =>
    panelPoints(panel).map((_, index) => ({ id: panel.id, index })),
  );
  const edge = model.hand.selectedEdge();
  if (edge) {
    const at = held?.kind === 'bead' && held.id === edge.id ? held.index + 1 : 0;
    model.hand.held.set({ kind: 'bead', id: edge.id, index: at % edge.points.length });
    return true;
  }
  if (handles.length === 0) return false;
  const at = handles.findIndex((h) => held?.kind === 'corner' && h.id === held.id && h.index === held.index);
  const next = handles[(at + 1) % handles.length];
  model.hand.held.set(next ? { kind: 'corner', ...next } : null);
  return true;
}
