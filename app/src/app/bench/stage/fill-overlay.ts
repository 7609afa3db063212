import { computed, inject, Injectable } from '@angular/core';
import { closedPath, openPath, planeToScreen, rectCorners, screenRect, toPlane, type Point } from '@able-plumb/core';
import { BenchModel } from '../bench-model';
import { FillPreview } from '../session/fill-preview';
import type { FillMark } from './fill-marks';

/** What is filled, and what steers it, over the picture, in screen px. */
@Injectable()
export class FillOverlay {
  private readonly model = inject(BenchModel);
  private readonly preview = inject(FillPreview);

  readonly shown = computed<FillMark | null>(() => {
    const [view, shown] = [this.model.stageView.view(), this.model.shown()];
    if (!view || !shown || this.model.showsOriginal() || this.model.compare() !== 'result' || shown.correction.crop.edges !== 'fill')
      return null;
    const onScreen = (points: readonly Point[]): Point[] | null => {
      const on = points.map((p) => toPlane(shown.warp, p));
      return on.every((p) => p !== null) ? on.map((p) => planeToScreen(view, p)) : null;
    };
    const pathOf = (points: readonly Point[]): string => openPath(onScreen(points) ?? []);
    const marked = this.model.knot() === 'crop' && this.model.marks();
    const { areas, lines } = shown.correction.crop.fill;
    const result = this.preview.fitting();
    const box = this.model.hand.boxDraft();
    const stroke = this.model.hand.stroke();
    const tool = this.model.hand.tool();
    return {
      image: result && {
        ...screenRect(view, result.crop),
        href: this.preview.hatched() && marked ? result.hatched : result.filled,
        under: result.filled,
      },
      areas: !marked
        ? []
        : areas.map((area) => {
            const { points, widthPx } = area;
            const corners: readonly Point[] =
              points.length === 2 && widthPx === undefined
                ? rectCorners({
                    x: Math.min(points[0]![0], points[1]![0]),
                    y: Math.min(points[0]![1], points[1]![1]),
                    width: Math.abs(points[0]![0] - points[1]![0]),
                    height: Math.abs(points[0]![1] - points[1]![1]),
                  })
                : points;
            const path = pathOf(corners);
            return {
              id: area.id,
              kind: area.kind,
              path: widthPx === undefined ? `${path}Z` : path,
              width: widthPx === undefined ? null : widthOnScreen(points[0] as Point, widthPx, onScreen),
              selected: this.model.hand.selectedId() === area.id,
            };
          }),
      lines: !marked ? [] : lines.map(({ id, a, b }) => ({ id, path: pathOf([a, b]), selected: this.model.hand.selectedId() === id })),
      draft:
        tool !== 'fill-not' && tool !== 'fill-only'
          ? null
          : box
            ? closedPath(view, rectCorners(box))
            : stroke.length > 0
              ? openPath(stroke.map((p) => planeToScreen(view, p)))
              : null,
    };
  });
}

/** How wide a stroke of the picture is seen where it begins. */
function widthOnScreen([x, y]: Point, widthPx: number, onScreen: (points: readonly Point[]) => Point[] | null): number {
  const ends = onScreen([
    [x - widthPx / 2, y],
    [x + widthPx / 2, y],
  ]);
  const [a, b] = ends ?? [];
  return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1]) : 1;
}
