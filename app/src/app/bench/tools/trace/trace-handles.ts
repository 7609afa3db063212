import { edgeCalibrationOf, edgeMarks, movedBead, withEdges, type Correction, type EdgeMark, type TracedEdge } from '@able-plumb/core';
import { moveHandle } from '../kit/move-handle';
import { nearCourse } from '../kit/near-course';
import { handleFamily } from '../tool';
import type { ToolContext } from '../tool-context';

/** A bead by its place along the edge, or the whole edge. */
type TracePart = number | 'edge';

/** The traced edges as the stage draws them; at Lens only. */
export function tracesOnStage(tool: ToolContext): readonly EdgeMark[] {
  const [view, warp, document, committed] = [tool.view(), tool.warp(), tool.document(), tool.committed()];
  if (!view || !warp || !document || !committed || tool.step() !== 'lens' || !tool.marks()) return [];
  const odd = committed.lens.edges.length > 0 ? (edgeCalibrationOf(committed).found?.disagreeing ?? []) : [];
  return edgeMarks(view, warp, document.lens.edges, tool.selection.id(), new Set(odd));
}

const selectedEdge = (tool: ToolContext): TracedEdge | null =>
  tool.document()?.lens.edges.find(({ id }) => id === tool.selection.id()) ?? null;

/** The document without a traced edge. */
export const withoutTrace = (c: Correction, id: string): Correction =>
  withEdges(
    c,
    c.lens.edges.filter((e) => e.id !== id),
  );

const replaced = (c: Correction, next: TracedEdge): TracedEdge[] => c.lens.edges.map((e) => (e.id === next.id ? next : e));

export const traceHandles = handleFamily<TracePart>({
  // beads are small: those of the selected edge can be taken hold of, and the ends of the others
  grips: (tool) =>
    tracesOnStage(tool).flatMap(({ id, beads, selected }) =>
      beads.flatMap((at, index) => (selected || index === 0 || index === beads.length - 1 ? [{ id, part: index, at }] : [])),
    ),
  under: (tool, { at }) => {
    const trace = tracesOnStage(tool).find(({ beads }) => nearCourse(at, beads));
    return trace ? { id: trace.id, part: 'edge' } : null;
  },
  hint: (_, { part }) =>
    part === 'edge' ? ['pointer', 'Click to select this edge.'] : ['move', 'Drag to move this bead; arrow keys nudge it afterwards.'],
  drag: (tool, { id, part }, start) => {
    const edge = tool.committed()?.lens.edges.find((e) => e.id === id);
    if (!edge) return null;
    tool.selection.select(id);
    if (part === 'edge') return null;
    tool.selection.hold({ tool: 'trace', id, part });
    return moveHandle(tool, start, {
      moved: (warp, by) => movedBead(warp, edge, part, by),
      put: (c, next) => ({ ...c, lens: { ...c.lens, edges: replaced(c, next) } }),
      under: (next) => next.points[part] ?? null,
      placed: (placed) => tool.commit((c) => withEdges(c, replaced(c, placed))),
    });
  },
  nudge: (tool, held, by, repeat) => {
    const warp = tool.warp();
    const edge = held && tool.committed()?.lens.edges.find(({ id }) => id === held.id);
    if (!warp || !edge || typeof held.part !== 'number') return false;
    const moved = movedBead(warp, edge, held.part, by);
    if (moved) tool.commit((c) => withEdges(c, replaced(c, moved)), repeat);
    return true;
  },
  round: (tool) => {
    const edge = selectedEdge(tool);
    return { of: 'selected', handles: edge ? edge.points.map((_, index) => ({ tool: 'trace', id: edge.id, part: index })) : [] };
  },
  remove: (tool) => {
    const edge = selectedEdge(tool);
    if (!edge) return false;
    tool.commit((c) => withoutTrace(c, edge.id));
    tool.selection.select(null);
    return true;
  },
});
