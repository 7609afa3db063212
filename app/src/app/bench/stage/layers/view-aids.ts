import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  deliveryRect,
  eyeHeight,
  eyeLine,
  gridLines,
  heightInCrop,
  screenRect,
  settingOutLines,
  settingOutPath,
  stretchMap,
  type Correction,
  type Delivery,
  type Rect,
} from '@able-plumb/core';
import { BenchSwitches } from '../../session/bench-switches';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { StageView } from '../../session/stage-view';
import { acrossStage, rectPath } from '../../tools/kit/on-screen';
import { stretchStep } from '../stretch-steps';

/** Spacing of the grid that comes up while something is bent or turned by hand, percent of the crop's width. */
const BY_HAND_GRID = 5;
/** Cells of the stretch map across the crop. */
const STRETCH_COLUMNS = 45;

/** What is laid over the picture for the eye: grid, stretch map, other deliveries' crops, setting-out lines. */
@Component({
  selector: 'g[ap-view-aids]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg:g class="grid-lines">
      @for (line of grid(); track line.id) {
        <svg:path [attr.d]="line.path" />
      }
    </svg:g>
    @if (stretch(); as s) {
      <svg:g class="stretch">
        @for (c of s.cells; track c.k) {
          <svg:rect [attr.class]="'step' + c.step" [attr.x]="c.x" [attr.y]="c.y" [attr.width]="s.width" [attr.height]="s.height" />
        }
        @for (f of s.figures; track f.k) {
          <svg:text [attr.x]="f.x" [attr.y]="f.y + 4" text-anchor="middle">{{ f.text }}</svg:text>
        }
      </svg:g>
    }
    @for (d of deliveries(); track d.name) {
      <svg:g class="delivery">
        <svg:path [attr.d]="d.path" />
        <svg:text [attr.x]="d.rect.x + 7" [attr.y]="d.rect.y + 16">{{ d.name }}</svg:text>
      </svg:g>
    }
    @if (settingOut(); as path) {
      <svg:path class="setting-out under" [attr.d]="path" />
      <svg:path class="setting-out" [attr.d]="path" />
    }
  `,
})
export class ViewAids {
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);
  private readonly hand = inject(Hand);
  private readonly picture = inject(ShownPicture);
  private readonly stageView = inject(StageView);

  /** What all of it needs: the result as it is shown; null while the original is. */
  private readonly ground = computed(() => {
    const [view, shown] = [this.stageView.view(), this.picture.shown()];
    return view && shown && !this.switches.showsOriginal() ? { view, ...shown } : null;
  });

  protected readonly grid = computed(() => {
    const [view, shown] = [this.stageView.view(), this.picture.shown()];
    // a grid comes up by itself while the lens is bent by hand, and while the picture is turned
    const bending = this.switches.step() === 'lens' && this.session.gestureActive();
    const percent = this.switches.grid() || (bending || this.hand.tag() ? BY_HAND_GRID : 0);
    if (!view || !shown || percent === 0 || !this.switches.marks()) return [];
    return gridLines(view, shown.warp.crop, percent).map(({ id, axis, at }) => ({ id, path: acrossStage(view, axis, at) }));
  });

  /** At Check, the stretch map over the crop: cells by their step, and figures on a wide lattice. */
  protected readonly stretch = computed(() => {
    const ground = this.ground();
    if (!ground || !this.switches.stretch() || this.switches.step() !== 'check' || this.switches.compare() === 'side') return null;
    const { view, warp } = ground;
    const { columns, rows, values } = stretchMap(warp, warp.crop, STRETCH_COLUMNS);
    const rect = screenRect(view, warp.crop);
    const [width, height] = [rect.width / columns, rect.height / rows];
    const mirrored = (i: number, n: number, flipped: boolean): number => (flipped ? n - 1 - i : i);
    const placed = values.flatMap((value, k) => {
      if (value === null) return [];
      const i = mirrored(k % columns, columns, view.mirrorX);
      const j = mirrored(Math.floor(k / columns), rows, view.mirrorY);
      return [{ k, i, j, value, x: rect.x + i * width, y: rect.y + j * height }];
    });
    return {
      width,
      height,
      cells: placed.map(({ k, value, x, y }) => ({ k, x, y, step: stretchStep(value) })),
      figures: placed
        .filter(({ i, j }) => i % 9 === 4 && j % 8 === 4)
        .map(({ k, value, x, y }) => ({ k, x: x + width / 2, y: y + height / 2, text: `${value.toFixed(2)} ×` })),
    };
  });

  /** At Crop, the crops of the picture's other deliveries. */
  protected readonly deliveries = computed(() => {
    const [ground, own] = [this.ground(), this.session.own()];
    if (!ground || !own || this.switches.step() !== 'crop' || this.session.gestureActive()) return [];
    return this.session
      .shapedDeliveries()
      .filter((d) => d.id !== this.session.delivery()?.id)
      .flatMap((d) => {
        const onPlane = deliveryRectOrNull(own, d);
        const rect = onPlane && screenRect(ground.view, onPlane);
        return rect ? [{ name: d.name, rect, path: rectPath(rect) }] : [];
      });
  });

  /** Setting-out lines over the crop: pegged, just picked, or while the crop or the picture under it moves. */
  protected readonly settingOut = computed(() => {
    const ground = this.ground();
    const { name, parts, attitude, peg } = this.switches.settings().settingOut;
    if (!ground || name === 'none' || !this.switches.marks()) return null;
    const atCrop = this.switches.step() === 'crop' && (this.session.gestureActive() || this.switches.settingOutPicked());
    if (!peg && !atCrop) return null;
    const { view, correction, warp } = ground;
    const eye = name === 'eye' ? eyeHeight(correction, warp, warp.crop) : null;
    const lines = name === 'eye' ? (eye ? eyeLine(heightInCrop(warp.crop, eye.y)) : []) : settingOutLines(name, parts, attitude);
    return settingOutPath(lines, screenRect(view, warp.crop));
  });
}

/** The rectangle of a delivery; null where the picture's crop cannot be had. */
function deliveryRectOrNull(own: Correction, delivery: Delivery): Rect | null {
  try {
    return deliveryRect(own, delivery);
  } catch {
    return null;
  }
}
