import type { Correction, Panel } from '../correction/schema';
import type { Rect } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { typedSize, unitMm } from '../stance/panel';
import { panelOnPlane } from '../warp/panel-plane';
import type { PlaneWarp } from '../warp/plane-warp';

/** The panel that a crop goes round: the first used one. */
export const croppedPanel = ({ panels }: Correction): Panel | null => panels.find((p) => p.used) ?? null;

/** A panel's upright box on the plane, px, and plane px for one step of its margins: a percent of the side, or its typed unit. */
export interface PanelBox {
  readonly box: Rect;
  readonly pxPerStep: readonly [number, number];
}

/** Null where the panel has no image on the plane. */
export function panelBox(correction: Correction, warp: PlaneWarp, panel: Panel): PanelBox | null {
  const quad = panelOnPlane(correction, warp, panel);
  if (!quad) return null;
  const box = boundsOf(quad);
  const typed = unitMm(panel) === null ? null : typedSize(panel, box.width / box.height);
  return { box, pxPerStep: typed ? [box.width / typed.width, box.height / typed.height] : [box.width / 100, box.height / 100] };
}

/** A panel's box with its margins, plane px; width or height may come out at nothing or less. */
export function withMargins({ box, pxPerStep: [across, down] }: PanelBox, { top, right, bottom, left }: Panel['margins']): Rect {
  return {
    x: box.x - across * left,
    y: box.y - down * top,
    width: box.width + across * (left + right),
    height: box.height + down * (top + bottom),
  };
}
