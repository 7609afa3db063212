import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatTooltip } from '@angular/material/tooltip';
import {
  asMuchAsFits,
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
import { Amount } from '../../../ui/amount';
import { Icon } from '../../../ui/icon';
import { WORDS } from '../../../ui/words';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { StageView } from '../../session/stage-view';
import { ToolBox } from '../../tool-box';
import { Tip } from '../../../keys/tip';
import { NumberField } from '../../../ui/number-field';

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
  selector: 'ap-stance-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, Icon, MatButton, MatCheckbox, MatTooltip, NumberField, Tip],
  templateUrl: './stance-step.html',
  styleUrl: './stance.scss',
})
export class StanceStep {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  protected readonly hand = inject(Hand);
  private readonly stageView = inject(StageView);
  protected readonly box = inject(ToolBox);
  protected readonly words = WORDS;
  /** Whether tilt and swing are taken out alike. */
  protected readonly linked = signal(true);

  protected readonly figures = computed(() => {
    const correction = this.session.correction();
    const readings = this.picture.readings();
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
      keepMiddle: stance.keepMiddle,
      middleLost: readings.middleLost,
      aspect: (stance.aspect - 1) * 100,
      shear: stance.shear,
      flipX: stance.flipX,
      flipY: stance.flipY,
      quarterTurns: stance.quarterTurns,
    };
  });

  protected previewMovement(movement: Movement, total: number): void {
    this.picture.preview((c) => withMovement(c, movement, total));
  }

  protected commitMovement(movement: Movement, total: number): void {
    this.session.commit((c) => withMovement(c, movement, total));
  }

  protected takeBackHand(movement: Movement): void {
    this.session.commit((c) => withMovement(c, movement, c.stance[movement]));
  }

  private strength(which: 'tilt' | 'swing', percent: number): Change {
    return (c) => withStrength(c, which, percent / 100, this.linked());
  }

  protected previewStrength(which: 'tilt' | 'swing', percent: number): void {
    this.picture.preview(this.strength(which, percent));
  }

  protected commitStrength(which: 'tilt' | 'swing', percent: number): void {
    this.session.commit(this.strength(which, percent));
  }

  private aim(tilt: number): Change {
    return (c) => withStance(c, { aim: { ...c.stance.aim, tilt } });
  }

  protected previewAim(tilt: number): void {
    this.picture.preview(this.aim(tilt));
  }

  protected commitAim(tilt: number): void {
    this.session.commit(this.aim(tilt));
  }

  protected middlePlumb(): void {
    this.session.commit(withMiddlePlumb);
  }

  protected keepMiddle(): void {
    this.session.commit((c) => withStance(c, { keepMiddle: !c.stance.keepMiddle }));
  }

  /** What the correction may cost at most, as typed. */
  protected readonly bearable = signal({ mostStretch: 1.6, leastKept: 60 });
  protected readonly fitsOutcome = signal('');

  protected setBearable(change: { readonly mostStretch?: number; readonly leastKept?: number }): void {
    this.bearable.update((before) => ({ ...before, ...change }));
  }

  protected asMuchAsFits(): void {
    const correction = this.session.committed();
    if (!correction) return;
    const share = asMuchAsFits(correction, { mostEnlargement: this.bearable().mostStretch, leastKept: this.bearable().leastKept / 100 });
    if (share === null) {
      this.fitsOutcome.set('Not even the picture as taken stays within these limits. Allow more stretch, or keep less.');
      return;
    }
    this.fitsOutcome.set(share === 1 ? 'All of it fits.' : `${Math.floor(share * 100)} % fit.`);
    this.session.commit((c) => withStrength(c, 'tilt', Math.floor(share * 100) / 100, true));
  }

  protected previewAspect(percent: number): void {
    this.picture.preview((c) => withStance(c, { aspect: 1 + percent / 100 }));
  }

  protected commitAspect(percent: number): void {
    this.session.commit((c) => withStance(c, { aspect: 1 + percent / 100 }));
  }

  protected previewShear(shear: number): void {
    this.picture.preview((c) => withStance(c, { shear }));
  }

  protected commitShear(shear: number): void {
    this.session.commit((c) => withStance(c, { shear }));
  }

  protected quarter(by: number): void {
    this.stageView.fit();
    this.session.quarterTurn(by);
  }

  protected flip(axis: 'flipX' | 'flipY'): void {
    this.session.commit((c) => ({ ...c, stance: { ...c.stance, [axis]: !c.stance[axis] } }));
  }

  protected reset(): void {
    this.stageView.fit();
    this.session.commit((c) => {
      const straight = withQuarterTurn(c, -c.stance.quarterTurns);
      return withStance(straight, {
        adjust: { roll: 0, tilt: 0, swing: 0 },
        aim: { roll: 0, tilt: 0, swing: 0 },
        strength: { tilt: 1, swing: 1 },
        keepMiddle: false,
        middle: 'plumb',
        ...(straight.stance.from === 'panel' ? {} : { aspect: 1, shear: 0, slanted: 'plumb' as const }),
        pull: { scale: 1, shift: [0, 0] },
        ...(straight.stance.from === 'hand' ? { roll: 0, tilt: 0, swing: 0 } : {}),
        flipX: false,
        flipY: false,
      });
    });
  }
}
