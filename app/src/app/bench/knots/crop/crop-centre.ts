import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { centredOn, centringAims, eyeHeight, heightInCrop, offAim, withCropRect, type CentringAim } from '@able-plumb/core';
import { BenchModel } from '../../bench-model';

/** Symmetry: centre the crop on a line, a panel or the meeting point, and how far off it is; the height of the eye in the crop. */
@Component({
  selector: 'ap-crop-centre',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton],
  template: `
    @if (rows().length > 0) {
      <h3>Centre on <small>off by</small></h3>
      @for (row of rows(); track row.aim.key) {
        <div class="row keep-row">
          <button type="button" matButton (click)="centre(row.aim)">{{ row.aim.name }}</button>
          <span class="off"
            >{{ row.off }} <small>{{ row.share }}</small></span
          >
        </div>
      }
    }
    @if (model.settings().settingOut.name === 'eye' && !eye()) {
      <p class="note">Nothing tells where the eye was: mark an eye line, or lines that tell the stance.</p>
    }
    @if (eye(); as e) {
      <p class="note">
        Eye line at <b>{{ e.percent }} %</b> of the height, from {{ e.from === 'stance' ? 'the stance' : 'the line you marked' }}.
      </p>
    }
  `,
  styleUrl: './crop.scss',
  host: { class: 'part' },
})
export class CropCentre {
  protected readonly model = inject(BenchModel);

  protected readonly rows = computed(() => {
    const shown = this.model.shown();
    if (!shown) return [];
    const { correction, warp } = shown;
    return centringAims(correction, warp, this.model.hand.selectedId()).map((aim) => {
      const [x, y] = offAim(warp.crop, aim);
      const parts = [
        x === null ? '' : `${Math.abs(x).toFixed(0)} px ${x < 0 ? 'left' : 'right'}`,
        y === null ? '' : `${Math.abs(y).toFixed(0)} px ${y < 0 ? 'above' : 'below'}`,
      ];
      const shares = [
        x === null ? '' : `at ${(50 + (100 * x) / warp.crop.width).toFixed(0)} % across`,
        y === null ? '' : `at ${(50 + (100 * y) / warp.crop.height).toFixed(0)} % down`,
      ];
      const said = (of: readonly string[]): string => of.filter((part) => part !== '').join(', ');
      return { aim, off: said(parts), share: said(shares) };
    });
  });

  protected readonly eye = computed(() => {
    const shown = this.model.shown();
    const eye = shown && eyeHeight(shown.correction, shown.warp, shown.warp.crop);
    return eye && { from: eye.from, percent: heightInCrop(shown.warp.crop, eye.y).toFixed(1) };
  });

  protected centre(aim: CentringAim): void {
    const crop = this.model.shown()?.warp.crop;
    if (crop) this.model.session.commit((c) => withCropRect(c, centredOn(crop, aim)));
  }
}
