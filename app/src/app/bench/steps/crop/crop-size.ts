import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { ratioOf, rectAround, rectCentre, wholePx, withCropRect } from '@able-plumb/core';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { NumberField } from '../../../ui/number-field';
import { SelectField, type Choice } from '../../../ui/select-field';

type Unit = 'px' | 'mm' | 'cm' | 'in';

/** Longest side of a file, px. */
const MOST_PX = 32767;
const INCHES: Readonly<Record<Exclude<Unit, 'px'>, number>> = { mm: 1 / 25.4, cm: 1 / 2.54, in: 1 };

/** The crop's size by typing: in px, or as a print at so many pixels an inch. Its middle stays, held proportions too. */
@Component({
  selector: 'ap-crop-size',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NumberField, SelectField],
  template: `
    <div class="typed">
      <ap-number
        label="Width of the crop"
        [digits]="digits()"
        [least]="least()"
        [most]="most()"
        [value]="shown()[0] ?? null"
        (taken)="type($event, 'width')"
      />
      ×
      <ap-number
        label="Height of the crop"
        [digits]="digits()"
        [least]="least()"
        [most]="most()"
        [value]="shown()[1] ?? null"
        (taken)="type($event, 'height')"
      />
      <ap-select label="Unit of the crop" [choices]="units" [value]="unit()" (chosen)="unit.set(asUnit($event))" />
      @if (unit() !== 'px') {
        <span>at</span>
        <ap-number label="Pixels an inch for the crop" [least]="1" [most]="4800" [value]="ppi()" (taken)="ppi.set($event)" />
        <span>ppi</span>
      }
    </div>
  `,
  styleUrl: './crop.scss',
  host: { class: 'part' },
})
export class CropSize {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  protected readonly units: readonly Choice[] = (['px', 'mm', 'cm', 'in'] satisfies Unit[]).map((value) => ({ value, name: value }));
  protected readonly unit = signal<Unit>('px');
  protected readonly ppi = signal(300);

  private readonly crop = computed(() => this.picture.shown()?.warp.crop ?? null);
  /** Plane px for one of the unit. */
  private readonly pxPer = computed(() => {
    const unit = this.unit();
    return unit === 'px' ? 1 : INCHES[unit] * this.ppi();
  });
  protected readonly digits = computed(() => ({ px: 0, mm: 1, cm: 2, in: 2 })[this.unit()]);
  protected readonly shown = computed<readonly (number | null)[]>(() => {
    const crop = this.crop();
    if (!crop) return [null, null];
    // a file has whole pixels: what is left of one is not written
    if (this.unit() === 'px') return [crop.width, crop.height].map(wholePx);
    return [crop.width, crop.height].map((side) => Number((side / this.pxPer()).toFixed(this.digits())));
  });
  protected readonly least = computed(() => Number(Math.max(1 / this.pxPer(), 10 ** -this.digits()).toFixed(this.digits())));
  protected readonly most = computed(() => Number((MOST_PX / this.pxPer()).toFixed(this.digits())));

  protected asUnit = (value: string): Unit => value as Unit;

  protected type(value: number, side: 'width' | 'height'): void {
    const crop = this.crop();
    const px = Math.max(1, value * this.pxPer());
    const correction = this.session.committed();
    if (!crop || !correction) return;
    const warp = this.picture.shown()?.warp;
    const held = warp && ratioOf(correction.crop.ratio, warp.turnedSize);
    const [width, height] = side === 'width' ? [px, held ? px / held : crop.height] : [held ? px * held : crop.width, px];
    this.session.commit((c) => withCropRect(c, rectAround(rectCentre(crop), width, height)));
  }
}
