import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { type Point, rectCorners } from '../picture/point';
import { panelPoints } from '../stance/panel-points';
import { toPicture } from '../warp/plane-warp';

/** Points along each side of the crop, so that a bent lens shows. */
const CROP_STEPS = 24;
const STROKES = { plumb: '#a8741a', level: '#1f66a8', return: '#1f66a8', eye: '#1f66a8' } as const;

const points = (list: readonly Point[]): string => list.map(([x, y]) => `${x.toFixed(2)},${y.toFixed(2)}`).join(' ');

/** What was pointed at, and where the crop lies, over the original: an SVG in picture px, to be laid over it anywhere. */
export function marksSvg(correction: Correction, warp: Warp): string {
  const { width, height } = correction.picture;
  const stroke = Math.max(1, Math.hypot(width, height) / 1600);
  const corners = rectCorners(warp.crop);
  const crop = corners.flatMap((a, i) => {
    const b = corners[(i + 1) % 4] as Point;
    const along = Array.from({ length: CROP_STEPS }, (_, k): Point => {
      const t = k / CROP_STEPS;
      return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
    });
    return along.map((p) => toPicture(warp, p)).filter((p) => p !== null);
  });
  const parts = [
    `<polygon id="crop" points="${points(crop)}" stroke="#1f2326" stroke-dasharray="${stroke * 6} ${stroke * 4}"/>`,
    ...correction.references.map(
      (r, i) =>
        `<line id="${r.kind}-${i + 1}" x1="${r.a[0]}" y1="${r.a[1]}" x2="${r.b[0]}" y2="${r.b[1]}" stroke="${STROKES[r.kind]}"${r.used ? '' : ' opacity="0.5"'}/>`,
    ),
    ...correction.panels.map((p, i) =>
      p.corners
        ? `<polygon id="panel-${i + 1}" points="${points(panelPoints(p))}" stroke="#a0466b"/>`
        : (p.edges ?? [])
            .map(
              ([a, b], k) =>
                `<line id="panel-${i + 1}-edge-${k + 1}" x1="${a[0]}" y1="${a[1]}" x2="${b[0]}" y2="${b[1]}" stroke="#a0466b"/>`,
            )
            .join(''),
    ),
    ...correction.lens.edges.map((e, i) => `<polyline id="edge-${i + 1}" points="${points(e.points)}" stroke="#4e7f58"/>`),
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" fill="none" stroke-width="${stroke.toFixed(2)}">\n${parts.join('\n')}\n</svg>\n`;
}
