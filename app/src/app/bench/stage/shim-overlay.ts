import { computed, inject, Injectable } from '@angular/core';
import {
  cellsOf,
  openPath,
  planeToScreen,
  sameHandle,
  screenRect,
  shimHandles,
  shimsOnPlane,
  type Point,
  type ShimHandle,
  type ShimOnPlane,
  type View,
} from '@able-plumb/core';
import { BenchModel } from '../bench-model';
import type { ShimMark } from './shim-marks';

/** Crossings nearer to each other than this are not drawn, screen px. */
const NEAREST_PX = 9;

/** Points of the plane as a path on the screen. */
const pathOf = (view: View, points: readonly Point[]): string => openPath(points.map((p) => planeToScreen(view, p)));

/** What holds what a handle moves. */
function heldBy({ crossings, strays }: ShimOnPlane, handle: ShimHandle): 'no' | 'moved' | 'nail' {
  if (handle.of === 'hold') return strays.find(({ id }) => id === handle.id)?.nail ? 'nail' : 'moved';
  if (handle.of !== 'crossing') return 'no';
  return crossings.find((c) => c.column === handle.column && c.row === handle.row)?.hold ?? 'no';
}

/** The shims over the picture, in screen px: the net of the one that is worked on, the boxes of the others. */
@Injectable()
export class ShimOverlay {
  private readonly model = inject(BenchModel);

  readonly shims = computed<readonly ShimMark[]>(() => {
    const [view, shown] = [this.model.stageView.view(), this.model.shown()];
    if (!view || !shown || this.model.knot() !== 'ease' || this.model.showsOriginal() || !this.model.marks()) return [];
    const held = this.model.hand.held();
    return shimsOnPlane(shown.correction, shown.warp).map((on, i) => {
      const { shim, box, net, lines, share } = on;
      const selected = this.model.hand.selectedId() === shim.id;
      // crossings that lie too near to each other to be taken hold of wait until somebody zooms in
      const dense = (Math.min(box.width, box.height) / cellsOf(shim.crossings)) * view.scale < NEAREST_PX;
      const handles = shimHandles(on).map(({ handle, at }) => ({
        handle,
        at: planeToScreen(view, at),
        held: held?.kind === 'shim' && held.id === shim.id && sameHandle(held.handle, handle),
        hold: heldBy(on, handle),
      }));
      return {
        id: shim.id,
        box: screenRect(view, box),
        selected,
        used: shim.used,
        net: selected ? net.map((points) => pathOf(view, points)) : [],
        handles: selected ? handles.filter((h) => h.handle.of !== 'crossing' || h.hold !== 'no' || h.held || !dense) : [],
        lines: lines.map(({ line, points }) => {
          const end = points.at(-1);
          return {
            id: line.id,
            path: pathOf(view, points),
            words: line.kind,
            at: end ? planeToScreen(view, end) : null,
          };
        }),
        words: `shim ${i + 1}${shim.used ? '' : ', set aside'}${share < 1 ? `, ${(share * 100).toFixed(0)} % of what is asked` : ''}`,
      };
    });
  });

  /** The box being drawn. */
  readonly draft = computed(() => {
    const [view, box] = [this.model.stageView.view(), this.model.hand.boxDraft()];
    return view && box && this.model.hand.tool() === 'shim' ? screenRect(view, box) : null;
  });
}
