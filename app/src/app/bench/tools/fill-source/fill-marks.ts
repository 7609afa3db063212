import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  closedPath,
  openPath,
  planeToScreen,
  rectCorners,
  screenRect,
  toPlane,
  type FillArea,
  type PlaneWarp,
  type Point,
  type View,
} from '@able-plumb/core';
import { FillPreview } from '../../session/fill-preview';
import { Cased } from '../kit/marks';
import { TOOL_CONTEXT } from '../tool-context';

/** What is filled; where it may be copied from and where not; what goes straight on. */
@Component({
  selector: 'svg[ap-fill-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased],
  template: `
    <svg:defs>
      <svg:pattern id="fill-not" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <svg:rect width="9" height="9" class="not-ground" />
        <svg:path d="M0 4.5H9" class="not-line" />
      </svg:pattern>
      <svg:pattern id="fill-only" width="9" height="9" patternUnits="userSpaceOnUse">
        <svg:rect width="9" height="9" class="only-ground" />
        <svg:circle cx="4.5" cy="4.5" r="1.6" class="only-dot" />
      </svg:pattern>
    </svg:defs>
    @if (image(); as i) {
      @for (href of i.hrefs; track href) {
        <svg:image
          [attr.href]="href"
          [attr.x]="i.rect.x"
          [attr.y]="i.rect.y"
          [attr.width]="i.rect.width"
          [attr.height]="i.rect.height"
          preserveAspectRatio="none"
        />
      }
    }
    @for (a of areas(); track a.id) {
      <svg:path
        [attr.class]="'area ' + a.kind + (a.width === null ? '' : ' stroke') + (selectedId() === a.id ? ' selected' : '')"
        [attr.d]="a.path"
        [style.stroke-width]="a.width"
      />
    }
    @for (l of lines(); track l.id) {
      <svg:g class="straight-on" [class.selected]="selectedId() === l.id" ap-cased [d]="l.path" />
    }
    @if (draft(); as path) {
      <svg:g class="straight-on" ap-cased [d]="path" />
    }
  `,
})
export class FillMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  private readonly preview = inject(FillPreview);
  protected readonly selectedId = this.tool.selection.id;

  /** What the marks need; null where nothing is filled. */
  private readonly ground = computed(() => {
    const [view, shown] = [this.tool.view(), this.tool.shown()];
    const filled = shown?.correction.crop.edges === 'fill' && !this.tool.showsOriginal() && this.tool.compare() === 'result';
    return view && shown && filled ? { view, ...shown } : null;
  });
  private readonly marked = computed(() => {
    const ground = this.ground();
    return ground && this.tool.step() === 'crop' && this.tool.marks() ? ground : null;
  });

  protected readonly image = computed(() => {
    const [ground, result] = [this.ground(), this.preview.fitting()];
    if (!ground || !result) return null;
    const hatched = this.preview.hatched() && this.marked() ? [result.hatched] : [];
    return { rect: screenRect(ground.view, result.crop), hrefs: [result.filled, ...hatched] };
  });

  protected readonly areas = computed(() => {
    const marked = this.marked();
    if (!marked) return [];
    return marked.correction.crop.fill.areas.map((area) => {
      const { id, kind, points, widthPx } = area;
      const path = pathOf(marked, widthPx === undefined ? cornersOf(area) : points);
      const [first] = points;
      if (widthPx === undefined || !first) return { id, kind, path: `${path}Z`, width: null };
      return { id, kind, path, width: widthOnScreen(marked, first, widthPx) };
    });
  });

  protected readonly lines = computed(() => {
    const marked = this.marked();
    return marked ? marked.correction.crop.fill.lines.map(({ id, a, b }) => ({ id, path: pathOf(marked, [a, b]) })) : [];
  });

  /** The box or the stroke being drawn. */
  protected readonly draft = computed(() => {
    const [ground, tool] = [this.ground(), this.tool.inHand()];
    if (!ground || (tool !== 'fill-not' && tool !== 'fill-only')) return null;
    const [box, stroke] = [this.tool.drawing.box(), this.tool.drawing.stroke()];
    if (box) return closedPath(ground.view, rectCorners(box));
    return stroke.length > 0 ? openPath(stroke.map((p) => planeToScreen(ground.view, p))) : null;
  });
}

interface Ground {
  readonly view: View;
  readonly warp: PlaneWarp;
}

/** Picture points as a path on the screen; empty where one of them has no image. */
function pathOf({ view, warp }: Ground, points: readonly Point[]): string {
  const on = points.map((p) => toPlane(warp, p));
  return on.every((p) => p !== null) ? openPath(on.map((p) => planeToScreen(view, p))) : '';
}

/** The corners of an area that has a border: a box is given by two opposite ones. */
function cornersOf({ points }: FillArea): readonly Point[] {
  const [p, q] = points;
  if (points.length !== 2 || !p || !q) return points;
  return rectCorners({
    x: Math.min(p[0], q[0]),
    y: Math.min(p[1], q[1]),
    width: Math.abs(p[0] - q[0]),
    height: Math.abs(p[1] - q[1]),
  });
}

/** How wide a stroke of the picture is seen where it begins. */
function widthOnScreen({ view, warp }: Ground, [x, y]: Point, widthPx: number): number {
  const [a, b] = [-widthPx / 2, widthPx / 2].map((off) => toPlane(warp, [x + off, y]));
  return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1]) * view.scale : 1;
}
