import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { composeWarp, givesScale, withRatio, type Correction, type OutputSize } from '@able-plumb/core';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { NumberField } from '../../../ui/number-field';
import { SelectField, type Choice } from '../../../ui/select-field';

type Kind = OutputSize['kind'];

const KINDS: readonly { readonly value: Kind; readonly name: string }[] = [
  { value: 'natural', name: 'as it is' },
  { value: 'long-edge', name: 'long edge' },
  { value: 'exact', name: 'exact pixels' },
  { value: 'print', name: 'print size' },
  { value: 'scale', name: 'to scale, 1:n' },
  { value: 'no-enlargement', name: 'nothing stretched' },
];

type PrintUnit = 'mm' | 'cm' | 'in';
const PER_INCH: Readonly<Record<PrintUnit, number>> = { mm: 25.4, cm: 2.54, in: 1 };
/** Longest side of a file, px. */
const MOST_PX = 32767;

/** Proportions that differ by more than this are said, as a share. */
const STRETCH_SAID = 0.002;

/** Size of the exported file: as it is, by the long edge, exact, for print, to the scale of a panel, or so that nothing is enlarged. */
@Component({
  selector: 'ap-export-size',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatCheckbox, NumberField, SelectField],
  templateUrl: './export-size.html',
  styleUrl: './export.scss',
  host: { class: 'part' },
})
export class ExportSize {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  protected readonly mostPx = MOST_PX;
  protected readonly units: readonly Choice[] = (['mm', 'cm', 'in'] satisfies PrintUnit[]).map((value) => ({ value, name: value }));

  protected readonly size = computed<OutputSize>(() => this.session.correction()?.output.size ?? { kind: 'natural' });

  /** A scale needs a panel of typed size. */
  protected readonly kinds = computed(() => {
    const correction = this.session.correction();
    const scaled = correction !== null && givesScale(correction);
    return KINDS.map((k) =>
      k.value === 'scale' && !scaled ? { ...k, disabled: true, name: `${k.name} (needs a panel of typed size)` } : k,
    );
  });

  protected readonly line = computed(() => {
    const size = this.picture.shown()?.warp.outputSize;
    return size ? `${size.width} × ${size.height} px, ${((size.width * size.height) / 1e6).toFixed(1)} MP` : '';
  });

  /** Prints are measured as the panels are. */
  private readonly printUnit = computed(() => {
    const size = this.session.correction()?.panels.find((p) => p.size && 'unit' in p.size)?.size;
    const unit = size && 'unit' in size ? size.unit : undefined;
    return unit === 'mm' || unit === 'in' ? unit : unit === 'ft' ? 'in' : 'cm';
  });

  /** How far typed proportions differ from the crop's, in words; empty where they do not. */
  protected readonly stretched = computed(() => {
    const warp = this.picture.shown()?.warp;
    const size = this.size();
    if (!warp || (size.kind !== 'exact' && size.kind !== 'print')) return '';
    const by = warp.outputSize.width / warp.outputSize.height / (warp.crop.width / warp.crop.height);
    return Math.abs(by - 1) < STRETCH_SAID ? '' : `${(Math.abs(by - 1) * 100).toFixed(1)} % ${by > 1 ? 'wider' : 'narrower'}`;
  });

  /** A new kind of size starts from what would be written now. */
  protected choose(kind: string): void {
    const now = this.picture.shown()?.warp.outputSize ?? { width: 3000, height: 2000 };
    const unit = this.printUnit();
    const print = (px: number): number => Math.round((px / 300) * PER_INCH[unit] * 100) / 100;
    const sizes: Readonly<Record<Kind, OutputSize>> = {
      natural: { kind: 'natural' },
      'long-edge': { kind: 'long-edge', px: 2048 },
      exact: { kind: 'exact', width: now.width, height: now.height },
      print: { kind: 'print', width: print(now.width), height: print(now.height), unit, ppi: 300 },
      scale: { kind: 'scale', oneTo: 10, ppi: 300 },
      'no-enlargement': { kind: 'no-enlargement' },
    };
    this.set(sizes[kind as Kind]);
  }

  /** Width and height of an exact size go by the crop's proportions. */
  protected readonly held = signal(true);

  protected setExact(size: Extract<OutputSize, { kind: 'exact' }>, change: { readonly width?: number; readonly height?: number }): void {
    const crop = this.picture.shown()?.warp.crop;
    const ratio = crop ? crop.width / crop.height : size.width / size.height;
    const width = change.width ?? (this.held() && change.height ? Math.max(1, Math.round(change.height * ratio)) : size.width);
    const height = change.height ?? (this.held() && change.width ? Math.max(1, Math.round(change.width / ratio)) : size.height);
    this.set({ ...size, width, height });
  }

  protected setUnit(size: OutputSize, unit: string): void {
    if (size.kind === 'print') this.set({ ...size, unit: unit as PrintUnit });
  }

  /** The crop in the typed proportions, so that nothing is stretched. */
  protected takeProportions(): void {
    const size = this.size();
    if (size.kind === 'exact' || size.kind === 'print') this.session.commit((c) => withRatio(c, size.width / size.height));
  }

  protected set(size: OutputSize): void {
    // one that cannot be written is not taken
    if (!this.possible(size)) return;
    this.session.commit((c) => withSize(c, size));
  }

  /** Whether a size can be written at all. */
  private possible(size: OutputSize): boolean {
    const correction = this.session.committed();
    try {
      if (correction) composeWarp(withSize(correction, size), correction.picture);
      return true;
    } catch {
      return false;
    }
  }
}

const withSize = (c: Correction, size: OutputSize): Correction => ({ ...c, output: { ...c.output, size } });
