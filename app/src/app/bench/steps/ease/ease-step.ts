import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { bendsInWords, isEased, withoutEase, withProjectionEase } from '@able-plumb/core';
import { Amount } from '../../../ui/amount';
import { WORDS } from '../../../ui/words';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { EaseEdges } from './ease-edges';
import { EaseRings } from './ease-rings';
import { EaseShims } from './ease-shims';

/** Ease: rings that ask what may give, the projection, edges, shims; and what all that bends. */
@Component({
  selector: 'ap-ease-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, EaseEdges, EaseRings, EaseShims, MatButton, MatTooltip],
  templateUrl: './ease-step.html',
  styleUrl: './ease.scss',
})
export class EaseStep {
  protected readonly oblique = `Oblique: ${WORDS.oblique}`;
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  protected readonly flat = computed(() => this.session.correction()?.camera.flat ?? false);
  protected readonly projection = computed(() => (this.session.correction()?.ease.projection ?? 0) * 100);
  protected readonly eased = computed(() => {
    const correction = this.session.correction();
    return correction !== null && isEased(correction);
  });
  protected readonly bends = computed(() => {
    const bends = this.picture.readings()?.bends;
    return bends ? bendsInWords(bends) : '';
  });

  protected previewProjection(percent: number): void {
    this.picture.preview((c) => withProjectionEase(c, percent / 100));
  }

  protected commitProjection(percent: number): void {
    this.session.commit((c) => withProjectionEase(c, percent / 100));
  }

  protected reset(): void {
    this.session.commit(withoutEase);
  }
}
