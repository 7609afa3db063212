import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  linkedSignal,
  signal,
  viewChild,
  type ElementRef,
} from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import {
  lensCentreOf,
  rectCentre,
  toPlane,
  withCamera,
  type Correction,
  type Lateral,
  type LateralOutcome,
  type Point,
} from '@able-plumb/core';
import { Amount } from '../../../ui/amount';
import { StageClient } from '../../../work/stage-client';
import { paint } from '../../../work/paint';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';

const VIEW_PX = { width: 126, height: 88 };
const VIEW_TIMES = 6;

/** The lateral colour of the Lens step: red and blue against green, found from the picture's edges or set by eye, before and after. */
@Component({
  selector: 'ap-lens-fringes',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, MatButton, MatTooltip],
  templateUrl: './lens-fringes.html',
  styleUrl: './lens.scss',
  host: { class: 'part' },
})
export class LensFringes {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly pictures = inject(StageClient);
  private readonly before = viewChild<ElementRef<HTMLCanvasElement>>('before');
  private readonly after = viewChild<ElementRef<HTMLCanvasElement>>('after');
  protected readonly view = VIEW_PX;
  protected readonly times = VIEW_TIMES;
  protected readonly busy = signal(false);

  /** What the edges said last, until another picture comes. */
  private readonly outcome = linkedSignal<string | undefined, LateralOutcome | null>({
    source: () => this.session.picture()?.id,
    computation: () => null,
  });

  /** Distance of the farthest corner from the lens's centre, px. */
  private readonly armPx = computed(() => {
    const correction = this.session.correction();
    if (!correction) return 1;
    const [cx, cy] = lensCentreOf(correction);
    const { width, height } = correction.picture;
    return Math.hypot(Math.max(cx, width - cx), Math.max(cy, height - cy));
  });

  protected readonly amounts = computed(() => {
    const lateral = this.session.correction()?.lens.lateral;
    return lateral ? { red: (lateral.red - 1) * this.armPx(), blue: (lateral.blue - 1) * this.armPx() } : null;
  });

  protected readonly words = computed(() => {
    const outcome = this.outcome();
    if (!outcome) return null;
    if (!outcome.found) return { text: outcome.why, trouble: true };
    const { redSdPx, blueSdPx, places } = outcome.found;
    return { text: `From ${places} places along edges: ± ${Math.max(redSdPx, blueSdPx).toFixed(2)} px.`, trouble: false };
  });

  /** Where before and after are shown, plane px: the edge that shows most, else the corner of the crop. */
  private readonly spot = computed<Point | null>(() => {
    const shown = this.picture.shown();
    const lateral = this.session.correction()?.lens.lateral;
    if (!shown || !lateral || (lateral.red === 1 && lateral.blue === 1)) return null;
    const at = this.outcome()?.found?.at;
    const { crop } = shown.warp;
    return (at && toPlane(shown.warp, at)) ?? [crop.x + crop.width * 0.93, rectCentre(crop)[1] - crop.height * 0.4];
  });
  protected readonly shows = computed(() => this.spot() !== null);

  constructor() {
    effect(() => {
      const centre = this.spot();
      const picture = this.session.picture();
      const shown = this.picture.shown();
      const [before, after] = [this.before()?.nativeElement, this.after()?.nativeElement];
      if (!centre || !picture || !shown || !before || !after || this.session.loading().state !== 'ready') return;
      const { correction } = shown;
      const plain: Correction = { ...correction, lens: { ...correction.lens, lateral: { red: 1, blue: 1 } } };
      const view = { centre, scale: VIEW_TIMES, stage: VIEW_PX, mirrorX: correction.stance.flipX, mirrorY: correction.stance.flipY };
      for (const [canvas, c, purpose] of [
        [before, plain, 'fringes-before'],
        [after, correction, 'fringes-after'],
      ] as const)
        void this.pictures
          .preview(purpose, { pictureId: picture.id, correction: c, view, density: 1, sharp: true, workLight: false })
          .then((pixels) => {
            if (pixels) paint(canvas, pixels);
          });
    });
  }

  protected async estimate(): Promise<void> {
    const picture = this.session.picture();
    const correction = this.session.committed();
    if (!picture || !correction || this.busy()) return;
    this.busy.set(true);
    try {
      const outcome = await this.pictures.fringes(picture.id, lensCentreOf(correction));
      if (this.session.picture()?.id !== picture.id) return;
      this.outcome.set(outcome);
      if (outcome.found) this.session.commit(this.with({ red: outcome.found.red, blue: outcome.found.blue }));
    } finally {
      this.busy.set(false);
    }
  }

  private with(change: Partial<Lateral>): (c: Correction) => Correction {
    return (c) => withCamera(c, { lens: { lateral: { ...c.lens.lateral, ...change } } });
  }

  private typed(colour: 'red' | 'blue', px: number): (c: Correction) => Correction {
    return this.with({ [colour]: 1 + px / this.armPx() });
  }

  protected preview(colour: 'red' | 'blue', px: number): void {
    this.picture.preview(this.typed(colour, px));
  }

  protected commit(colour: 'red' | 'blue', px: number): void {
    this.session.commit(this.typed(colour, px));
  }
}
