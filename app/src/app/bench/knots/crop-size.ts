import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { ratioOf, rectAround, rectCentre, withCropRect } from '@able-plumb/core';
import { BenchModel } from '../bench-model';

type Unit = 'px' | 'mm' | 'cm' | 'in';

const INCHES: Readonly<Record<Exclude<Unit, 'px'>, number>> = { mm: 1 / 25.4, cm: 1 / 2.54, in: 1 };

/** The crop's size by typing: in px, or as a print at so many pixels an inch. Its middle stays, held proportions too. */
@Component({
  selector: 'ap-crop-size',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="typed">
      <input #w type="text" inputmode="decimal" aria-label="Width of the crop" [value]="shown()[0]" (change)="type(w, 'width')" />
      ×
      <input #h type="text" inputmode="decimal" aria-label="Height of the crop" [value]="shown()[1]" (change)="type(h, 'height')" />
      <select #u aria-label="Unit of the crop" (change)="unit.set(asUnit(u.value))">
        @for (name of units; track name) {
          <option [value]="name" [selected]="name === unit()">{{ name }}</option>
        }
      </select>
      @if (unit() !== 'px') {
        <span>at</span>
        <input #p type="text" inputmode="numeric" aria-label="Pixels an inch for the crop" [value]="ppi()" (change)="typePpi(p)" />
        <span>ppi</span>
      }
    </div>
  `,
  styleUrl: './knot.scss',
  host: { class: 'part' },
})
export class CropSize {
  private readonly model = inject(BenchModel);
  protected readonly units: readonly Unit[] = ['px', 'mm', 'cm', 'in'];
  protected readonly unit = signal<Unit>('px');
  protected readonly ppi = signal(300);

  private readonly crop = computed(() => this.model.shown()?.warp.crop ?? null);
  /** Plane px for one of the unit. */
  private readonly pxPer = computed(() => {
    const unit = this.unit();
    return unit === 'px' ? 1 : INCHES[unit] * this.ppi();
  });
  protected readonly shown = computed(() => {
    const crop = this.crop();
    if (!crop) return ['', ''];
    // a file has whole pixels: what is left of one is not written
    if (this.unit() === 'px') return [crop.width, crop.height].map((side) => String(Math.floor(side + 1e-6)));
    const digits = this.unit() === 'mm' ? 1 : 2;
    return [crop.width, crop.height].map((side) => (side / this.pxPer()).toFixed(digits));
  });

  protected asUnit = (value: string): Unit => value as Unit;

  protected type(field: HTMLInputElement, side: 'width' | 'height'): void {
    const crop = this.crop();
    const px = Number(field.value.replace(',', '.')) * this.pxPer();
    const correction = this.model.session.committed();
    if (!crop || !correction || !(px >= 1) || !(px <= 32767)) {
      field.value = this.shown()[side === 'width' ? 0 : 1] ?? '';
      return;
    }
    const warp = this.model.shown()?.warp;
    const held = warp && ratioOf(correction.crop.ratio, warp.turnedSize);
    const [width, height] = side === 'width' ? [px, held ? px / held : crop.height] : [held ? px * held : crop.width, px];
    this.model.session.commit((c) => withCropRect(c, rectAround(rectCentre(crop), width, height)));
  }

  protected typePpi(field: HTMLInputElement): void {
    const value = Math.round(Number(field.value));
    if (value >= 1 && value <= 4800) this.ppi.set(value);
    field.value = String(this.ppi());
  }
}
