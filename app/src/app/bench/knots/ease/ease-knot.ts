import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { bendsInWords, isEased, withoutEase, withProjectionEase } from '@able-plumb/core';
import { Amount } from '../../../ui/amount';
import { WORDS } from '../../../ui/words';
import { BenchModel } from '../../bench-model';
import { EaseEdges } from './ease-edges';
import { EaseRings } from './ease-rings';
import { EaseShims } from './ease-shims';

/** Ease: rings that ask what may give, the projection, edges, shims; and what all that bends. */
@Component({
  selector: 'ap-ease-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, EaseEdges, EaseRings, EaseShims, MatButton, MatTooltip],
  templateUrl: './ease-knot.html',
  styleUrl: './ease.scss',
})
export class EaseKnot {
  protected readonly oblique = `Oblique: ${WORDS.oblique}`;
  private readonly model = inject(BenchModel);
  protected readonly flat = computed(() => this.model.session.correction()?.camera.flat ?? false);
  protected readonly projection = computed(() => (this.model.session.correction()?.ease.projection ?? 0) * 100);
  protected readonly eased = computed(() => {
    const correction = this.model.session.correction();
    return correction !== null && isEased(correction);
  });
  protected readonly bends = computed(() => {
    const bends = this.model.readings()?.bends;
    return bends ? bendsInWords(bends) : '';
  });

  protected previewProjection(percent: number): void {
    this.model.preview((c) => withProjectionEase(c, percent / 100));
  }

  protected commitProjection(percent: number): void {
    this.model.session.commit((c) => withProjectionEase(c, percent / 100));
  }

  protected reset(): void {
    this.model.session.commit(withoutEase);
  }
}
