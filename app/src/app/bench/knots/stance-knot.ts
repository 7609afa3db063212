import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import {
  degreesText,
  lineAngleInWords,
  withMiddlePlumb,
  withMovement,
  withQuarterTurn,
  withStance,
  withStrength,
  type Correction,
  type Movement,
} from '@able-plumb/core';
import { Amount } from '../../ui/amount';
import { Icon } from '../../ui/icon';
import { BenchModel } from '../bench-model';

type Change = (c: Correction) => Correction;

const MOVEMENTS: readonly {
  readonly movement: Movement;
  readonly label: string;
  readonly most: number;
  readonly ways: readonly [string, string];
}[] = [
  { movement: 'roll', label: 'Roll', most: 45, ways: ['clockwise', 'anticlockwise'] },
  { movement: 'tilt', label: 'Tilt', most: 60, ways: ['up', 'down'] },
  { movement: 'swing', label: 'Swing', most: 60, ways: ['right', 'left'] },
];

/** Stance: every movement by slider and by typing, what is held back, shape, quarter turns, flips. */
@Component({
  selector: 'ap-stance-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, Icon],
  templateUrl: './stance-knot.html',
  styleUrl: './knot.scss',
})
export class StanceKnot {
  protected readonly model = inject(BenchModel);
  /** Whether tilt and swing are taken out alike. */
  protected readonly linked = signal(true);

  protected readonly figures = computed(() => {
    const correction = this.model.correction();
    const readings = this.model.readings();
    if (!correction || !readings) return null;
    const { stance } = correction;
    return {
      source: stance.from === 'panel' ? 'from the panel' : 'from the lines',
      movements: MOVEMENTS.map(({ movement, label, most, ways }) => {
        const signed = (deg: number): string | null => (Math.abs(deg) < 0.005 ? null : `${degreesText(deg)} ${ways[deg > 0 ? 0 : 1]}`);
        return {
          movement,
          label,
          most,
          total: stance[movement] + stance.adjust[movement],
          fromLines: stance.from === 'hand' ? null : signed(stance[movement]),
          byHand: signed(stance.adjust[movement]),
        };
      }),
      strengthTilt: stance.strength.tilt * 100,
      strengthSwing: stance.strength.swing * 100,
      aimTilt: stance.aim.tilt,
      middle: lineAngleInWords('plumb', readings.heldBackDeg),
      aspect: (stance.aspect - 1) * 100,
      shear: stance.shear,
      flipX: stance.flipX,
      flipY: stance.flipY,
      quarterTurns: stance.quarterTurns,
    };
  });

  protected previewMovement(movement: Movement, total: number): void {
    this.model.preview((c) => withMovement(c, movement, total));
  }

  protected commitMovement(movement: Movement, total: number): void {
    this.model.commit((c) => withMovement(c, movement, total));
  }

  protected takeBackHand(movement: Movement): void {
    this.model.commit((c) => withMovement(c, movement, c.stance[movement]));
  }

  private strength(which: 'tilt' | 'swing', percent: number): Change {
    return (c) => withStrength(c, which, percent / 100, this.linked());
  }

  protected previewStrength(which: 'tilt' | 'swing', percent: number): void {
    this.model.preview(this.strength(which, percent));
  }

  protected commitStrength(which: 'tilt' | 'swing', percent: number): void {
    this.model.commit(this.strength(which, percent));
  }

  private aim(tilt: number): Change {
    return (c) => withStance(c, { aim: { ...c.stance.aim, tilt } });
  }

  protected previewAim(tilt: number): void {
    this.model.preview(this.aim(tilt));
  }

  protected commitAim(tilt: number): void {
    this.model.commit(this.aim(tilt));
  }

  protected middlePlumb(): void {
    this.model.commit(withMiddlePlumb);
  }

  protected pull(): void {
    this.model.takeTool(this.model.tool() === 'pull' ? 'none' : 'pull');
  }

  protected previewAspect(percent: number): void {
    this.model.preview((c) => withStance(c, { aspect: 1 + percent / 100 }));
  }

  protected commitAspect(percent: number): void {
    this.model.commit((c) => withStance(c, { aspect: 1 + percent / 100 }));
  }

  protected previewShear(shear: number): void {
    this.model.preview((c) => withStance(c, { shear }));
  }

  protected commitShear(shear: number): void {
    this.model.commit((c) => withStance(c, { shear }));
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
      const straight = withQuarterTurn(c, -c.stance.quarterTurns);
      return withStance(straight, {
        adjust: { roll: 0, tilt: 0, swing: 0 },
        aim: { roll: 0, tilt: 0, swing: 0 },
        strength: { tilt: 1, swing: 1 },
        ...(straight.stance.from === 'panel' ? {} : { aspect: 1, shear: 0 }),
        pull: { scale: 1, shift: [0, 0] },
        ...(straight.stance.from === 'hand' ? { roll: 0, tilt: 0, swing: 0 } : {}),
        flipX: false,
        flipY: false,
      });
    });
  }
}
