import { computed, inject, Injectable } from '@angular/core';
import {
  boundsOf,
  closedPath,
  edgeEasesOnPlane,
  planeToScreen,
  rectCentre,
  ringOutline,
  ringReadings,
  ringWords,
  RING_HANDLES,
  screenRect,
  toPlane,
  type RingHandle,
  type View,
} from '@able-plumb/core';
import { BenchModel } from '../bench-model';
import type { Shown } from '../session/shown-warp';
import type { BoundaryMark, RingMark } from './ease-marks';

/** A ring smaller than this on the stage is drawn without handles. */
const SMALL_RING_PX = 30;
/** Half the tick that ends the stretches of an edge easing. */
const TICK_PX = 9;

/** What is drawn over the picture at Ease, in screen px, as it follows from what the bench shows. */
@Injectable()
export class EaseOverlay {
  private readonly model = inject(BenchModel);

  /** At Ease, the shape rings; and the one being drawn. */
  readonly rings = computed<readonly RingMark[]>(() => {
    const ground = this.easeGround();
    if (!ground) return [];
    const { view, shown } = ground;
    const readings = ringReadings(shown.correction, shown.warp);
    return shown.correction.ease.rings.flatMap((ring, i) => {
      const outline = ringOutline(ring).map((p) => toPlane(shown.warp, p));
      const handles = RING_HANDLES.flatMap((handle) => {
        const at = toPlane(shown.warp, ring[handle]);
        return at ? [{ handle, at: planeToScreen(view, at), held: this.holds(ring.id, handle) }] : [];
      });
      if (!outline.every((p) => p !== null)) return [];
      const { x, y, width, height } = screenRect(view, boundsOf(outline));
      const small = Math.min(width, height) < SMALL_RING_PX;
      return [
        {
          id: ring.id,
          path: closedPath(view, outline),
          handles: small ? handles.slice(0, 1) : handles,
          small,
          tag: [x + width / 2, y] as const,
          words: `ring ${i + 1}: ${ringWords(readings[i]?.ratio ?? null)}`,
          selected: this.model.hand.selectedId() === ring.id,
        },
      ];
    });
  });

  readonly ringDraft = computed(() => {
    const [view, box] = [this.model.stageView.view(), this.model.hand.boxDraft()];
    if (!view || !box || this.model.hand.tool() !== 'ring') return null;
    const [x, y] = rectCentre(box);
    return closedPath(view, ringOutline({ centre: [x, y], right: [x + box.width / 2, y], top: [x, y - box.height / 2] }));
  });

  /** At Ease, the boundaries of edge easings and the stretches over which they take effect. */
  readonly boundaries = computed<readonly BoundaryMark[]>(() => {
    const ground = this.easeGround();
    if (!ground) return [];
    const { view, shown } = ground;
    return edgeEasesOnPlane(shown.correction, shown.warp).map(({ edge, k, boundary, full, room, at }) => {
      const onScreen = (value: number): number => planeToScreen(view, [value, value])[k];
      const grip = planeToScreen(view, at);
      const across = grip[k === 0 ? 1 : 0];
      // a line along the axis, ended by a tick
      const stretch = (to: number): string => {
        const [p, q] = [onScreen(boundary), onScreen(to)];
        return k === 0
          ? `M${p} ${across}H${q}M${q} ${across - TICK_PX}V${across + TICK_PX}`
          : `M${across} ${p}V${q}M${across - TICK_PX} ${q}H${across + TICK_PX}`;
      };
      const held = this.model.hand.held();
      return {
        id: edge.id,
        axis: k === 0 ? ('x' as const) : ('y' as const),
        at: onScreen(boundary),
        grip,
        reach: stretch(full),
        room: room === null ? null : stretch(room),
        words: `${(edge.amount * 100).toFixed(0)} % ${k === 0 ? 'narrower' : 'lower'}`,
        selected: this.model.hand.selectedId() === edge.id,
        held: held?.kind === 'boundary' && held.id === edge.id,
      };
    });
  });

  /** What the marks of Ease need; null elsewhere, and while the original is shown. */
  private easeGround(): { readonly view: View; readonly shown: Shown } | null {
    const [view, shown] = [this.model.stageView.view(), this.model.shown()];
    if (!view || !shown || this.model.knot() !== 'ease' || this.model.showsOriginal() || !this.model.marks()) return null;
    return { view, shown };
  }

  private holds(id: string, handle: RingHandle): boolean {
    const held = this.model.hand.held();
    return held?.kind === 'ring' && held.id === id && held.handle === handle;
  }
}
