import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { centredOn, centringAims, eyeHeight, heightInCrop, offAim, withCropRect, type CentringAim } from '@able-plumb/core';
import { BenchSwitches } from '../../session/bench-switches';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';

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
    @if (switches.settings().settingOut.name === 'eye' && !eye()) {
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
  private readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);

  protected readonly rows = computed(() => {
    const shown = this.picture.shown();
    if (!shown) return [];
    const { correction, warp } = shown;
    return centringAims(correction, warp, this.hand.id()).map((aim) => {
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
    const shown = this.picture.shown();
    const eye = shown && eyeHeight(shown.correction, shown.warp, shown.warp.crop);
    return eye && { from: eye.from, percent: heightInCrop(shown.warp.crop, eye.y).toFixed(1) };
  });

  protected centre(aim: CentringAim): void {
    const crop = this.picture.shown()?.warp.crop;
    if (crop) this.session.commit((c) => withCropRect(c, centredOn(crop, aim)));
  }
}
