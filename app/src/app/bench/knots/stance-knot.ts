import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { degreesText, withQuarterTurn, withRollAdjust, type Correction } from '@able-plumb/core';
import { Amount } from '../../ui/amount';
import { Icon } from '../../ui/icon';
import { BenchModel } from '../bench-model';

/** Stance: roll by slider, by typing and by hand; quarter turns; flips. */
@Component({
  selector: 'ap-stance-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, Icon],
  templateUrl: './stance-knot.html',
  styleUrl: './knot.scss',
})
export class StanceKnot {
  protected readonly model = inject(BenchModel);

  protected readonly figures = computed(() => {
    const correction = this.model.correction();
    const readings = this.model.readings();
    if (!correction || !readings) return null;
    const { stance } = correction;
    const signed = (deg: number): string =>
      Math.abs(deg) < 0.005 ? '0.00°' : `${degreesText(deg)} ${deg > 0 ? 'clockwise' : 'anticlockwise'}`;
    return {
      roll: stance.roll + stance.adjust.roll,
      fromLines: stance.from === 'references' ? signed(stance.roll) : null,
      byHand: Math.abs(stance.adjust.roll) >= 0.005 ? signed(stance.adjust.roll) : null,
      flipX: stance.flipX,
      flipY: stance.flipY,
      quarterTurns: stance.quarterTurns,
    };
  });

  /** The slider and the field show the whole roll; what they change is what the hand adds. */
  private rolled(total: number): (c: Correction) => Correction {
    return (c) => withRollAdjust(c, total - c.stance.roll);
  }

  protected previewRoll(total: number): void {
    this.model.preview(this.rolled(total));
  }

  protected commitRoll(total: number): void {
    this.model.commit(this.rolled(total));
  }

  protected takeBackHand(): void {
    this.model.commit((c) => withRollAdjust(c, 0));
  }

  protected quarter(by: number): void {
    this.model.fit();
    this.model.commit((c) => withQuarterTurn(c, by));
  }

  protected flip(axis: 'flipX' | 'flipY'): void {
    this.model.commit((c) => ({ ...c, stance: { ...c.stance, [axis]: !c.stance[axis] } }));
  }

  protected reset(): void {
    this.model.fit();
    this.model.commit((c) => {
      const straight = withQuarterTurn(withRollAdjust(c, 0), -c.stance.quarterTurns);
      return { ...straight, stance: { ...straight.stance, flipX: false, flipY: false } };
    });
  }
}
