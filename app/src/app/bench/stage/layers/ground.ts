import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { clipToRect, closedPath, screenRect } from '@able-plumb/core';
import { BenchSwitches } from '../../session/bench-switches';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { StageView } from '../../session/stage-view';
import { rectPath } from '../../tools/kit/on-screen';

/** The outline of the picture, what of the crop is empty, and the shade over what lies outside the crop. */
@Component({
  selector: 'g[ap-ground]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg:defs>
      <svg:pattern id="hatch" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <svg:rect width="9" height="9" class="hatch-ground" />
        <svg:line x1="0" x2="0" y1="0" y2="9" class="hatch-line" />
      </svg:pattern>
    </svg:defs>
    @if (paths(); as p) {
      @if (p.empty) {
        <svg:path [attr.d]="p.empty" fill-rule="evenodd" fill="url(#hatch)" />
      }
      <svg:path class="outline" [attr.d]="p.outline" />
      @if (p.outside && session.loading().state === 'ready') {
        <svg:path
          class="outside"
          [class.strong]="switches.step() === 'crop'"
          [style.--shade]="switches.settings().shade"
          [attr.d]="p.outside"
          fill-rule="evenodd"
        />
      }
    }
  `,
})
export class Ground {
  protected readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly stageView = inject(StageView);

  protected readonly paths = computed(() => {
    const [view, warp, correction] = [this.stageView.view(), this.picture.stageWarp(), this.picture.stageCorrection()];
    if (!view || !warp || !correction) return null;
    const crop = this.switches.showsOriginal() ? null : (this.picture.shown()?.warp.crop ?? null);
    const outline = closedPath(view, warp.outline);
    const seen = crop && closedPath(view, clipToRect(warp.outline, crop));
    return {
      outline,
      // by the even-odd rule: of two areas of which one lies in the other, what is in the larger alone
      outside: crop && `${outline}${seen}`,
      empty: crop && correction.crop.edges !== 'clear' ? `${rectPath(screenRect(view, crop))}${seen}` : null,
    };
  });
}
