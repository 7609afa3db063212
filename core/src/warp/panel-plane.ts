import type { Correction, Panel } from '../correction/schema';
import { apply3 } from '../linear/mat3';
import { distance, type Point } from '../picture/point';
import { DegeneratePanelError } from '../stance/homography-from-corners';
import { panelInIdeal, typedSize, unitMm } from '../stance/panel';
import { eased, type PlaneWarp } from './plane-warp';
import { quadOf, type Quad } from '../picture/quad';

/** A panel's corners on the plane that is shown, top left first, px, also where they lie outside the picture; null where there is no image. */
export function panelOnPlane(correction: Correction, warp: PlaneWarp, panel: Panel): Quad | null {
  const corners = panelOnFlat(correction, warp, panel)?.map((p) => eased(warp, p));
  return corners ? quadOf(corners) : null;
}

/** The same on the plane before easing, where lengths are true to each other. */
function panelOnFlat(correction: Correction, warp: PlaneWarp, panel: Panel): Quad | null {
  let ideal: Quad | null;
  try {
    ideal = panelInIdeal(correction, warp.pictureSize, panel);
  } catch (error) {
    if (error instanceof DegeneratePanelError) return null;
    throw error;
  }
  const { toPlane, w0 } = warp.stance;
  const corners = ideal?.map((p): Point | null => {
    const [x, y, w] = apply3(toPlane, [p[0], p[1], 1]);
    return w >= 0.1 * w0 ? [x / w, y / w] : null;
  });
  return corners ? quadOf(corners) : null;
}

/** A panel whose size is typed in a unit of length, and what that makes of the plane. */
export interface PlaneScale {
  readonly panel: Panel;
  /** Millimetres in reality for one plane px: across and down. They differ only as far as the panel is not true. */
  readonly mmPerPx: Point;
}

/** The plane's scale from the first used panel with a typed size; null without one. */
export function planeScale(correction: Correction, warp: PlaneWarp): PlaneScale | null {
  for (const panel of correction.panels) {
    const unit = unitMm(panel);
    if (!panel.used || unit === null) continue;
    const quad = panelOnFlat(correction, warp, panel);
    if (!quad) continue;
    const [a, b, c, d] = quad;
    const [across, down] = [(distance(a, b) + distance(d, c)) / 2, (distance(a, d) + distance(b, c)) / 2];
    const typed = typedSize(panel, across / down);
    if (typed) return { panel, mmPerPx: [(typed.width * unit) / across, (typed.height * unit) / down] };
  }
  return null;
}
