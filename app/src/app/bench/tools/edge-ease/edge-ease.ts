import {
  edgeEasesOnPlane,
  midpoint,
  toPicture,
  withBoundary,
  withEdgeEase,
  withoutEdgeEase,
  type Correction,
  type Point,
} from '@able-plumb/core';
import { LINE_REACH_PX } from '../kit/near-course';
import { wayOnPlane } from '../kit/pointer-way';
import { removeSelected } from '../kit/remove-selected';
import { lyingOn } from '../kit/settled-on';
import { handleFamily, type Gesture, type PointerFacts, type ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { boundariesOnStage } from './boundaries-on-stage';
import { EdgeEaseMarks } from './edge-ease-marks';

/** How far to both sides of its grip an edge is looked for that may hide a boundary, share of the crop along it. */
const SNAP_SHARE = 0.08;

/** Moves the boundary of an edge easing; let go near a real edge that runs along it, it settles there, where it is not seen. */
function dragBoundary(tool: ToolContext, id: string, start: PointerFacts): Gesture | null {
  const warp = tool.warp();
  const way = wayOnPlane(tool, start);
  const correction = tool.committed();
  const place = warp && correction && edgeEasesOnPlane(correction, warp).find((e) => e.edge.id === id);
  if (!way || !place) return null;
  tool.selection.select(id);
  tool.selection.hold({ tool: 'edge-ease', id, part: null });
  const { k, from } = place;
  let to = from;
  return {
    move({ at }) {
      to = from + way(at)[k];
      tool.preview((c) => withBoundary(c, id, to));
    },
    release() {
      if (to === from) return false;
      const line = alongBoundary(tool, id, k);
      const dragged = (c: Correction): Correction => withBoundary(c, id, to);
      tool.place({
        ask: async () => (line ? tool.magnet.edgesNear(...line) : []),
        meanwhile: dragged,
        land: (c, fits) => {
          const [fit] = lyingOn(fits);
          const [x, y] = fit ? midpoint(fit.a, fit.b) : [0, 0];
          return fit ? withEdgeEase(dragged(c), id, { at: [x, y] }) : dragged(c);
        },
      });
      return false;
    },
    cancel: () => tool.cancel(),
  };
}

/** A stretch of a boundary about its grip as it is shown, by its ends in the picture, px; null without an image there. */
function alongBoundary(tool: ToolContext, id: string, k: 0 | 1): readonly [Point, Point] | null {
  const shown = tool.shown();
  const place = shown && edgeEasesOnPlane(shown.correction, shown.warp).find((e) => e.edge.id === id);
  if (!place) return null;
  const { warp } = shown;
  const [x, y] = place.at;
  const half = SNAP_SHARE * (k === 0 ? warp.crop.height : warp.crop.width);
  const [a, b] = [-half, half].map((off) => toPicture(warp, k === 0 ? [x, y + off] : [x + off, y]));
  return a && b ? [a, b] : null;
}

/** Boundaries beyond which the picture is narrowed. They are added by the buttons of their step, not drawn. */
export const edgeEase: ToolDefinition = {
  id: 'edge-ease',
  step: 'ease',
  name: 'Edge easing',
  selectsHeld: true,
  handles: handleFamily<'x' | 'y' | null>({
    under: (tool, { at }) => {
      const found = boundariesOnStage(tool).find((b) => Math.abs(at[b.axis === 'x' ? 0 : 1] - b.at) <= LINE_REACH_PX);
      return found ? { id: found.id, part: found.axis } : null;
    },
    hint: (_, { part }) => [part === 'x' ? 'ew-resize' : 'ns-resize', 'Drag the boundary; it settles on an edge that hides it.'],
    drag: (tool, { id }, at) => dragBoundary(tool, id, at),
    nudge: (tool, held, by, repeat) => {
      const [correction, warp] = [tool.committed(), tool.warp()];
      const place = held && correction && warp && edgeEasesOnPlane(correction, warp).find(({ edge }) => edge.id === held.id);
      if (!place) return false;
      tool.commit((c) => withBoundary(c, place.edge.id, place.from + by[place.k]), repeat);
      return true;
    },
    round: (tool) => ({
      of: 'all',
      handles: tool.step() === 'ease' ? (tool.committed()?.ease.edges ?? []).map(({ id }) => ({ tool: 'edge-ease', id, part: null })) : [],
    }),
    remove: (tool) => removeSelected(tool, ({ ease }) => ease.edges, withoutEdgeEase),
  }),
  marks: EdgeEaseMarks,
};
