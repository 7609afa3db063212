import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { composeWarp, givesScale, withRatio, type Correction, type OutputSize } from '@able-plumb/core';
import { BenchModel } from '../bench-model';

type Kind = OutputSize['kind'];

const KINDS: readonly { readonly kind: Kind; readonly name: string }[] = [
  { kind: 'natural', name: 'as it is' },
  { kind: 'long-edge', name: 'long edge' },
  { kind: 'exact', name: 'exact pixels' },
  { kind: 'print', name: 'print size' },
  { kind: 'scale', name: 'to scale, 1:n' },
  { kind: 'no-enlargement', name: 'nothing stretched' },
];

/** Proportions that differ by more than this are said, as a share. */
const STRETCH_SAID = 0.002;

/** Size of the exported file: as it is, by the long edge, exact, for print, to the scale of a panel, or so that nothing is enlarged. */
@Component({
  selector: 'ap-export-size',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './export-size.html',
  styleUrl: './knot.scss',
  host: { class: 'part' },
})
export class ExportSize {
  protected readonly model = inject(BenchModel);

  protected readonly size = computed<OutputSize>(() => this.model.session.correction()?.output.size ?? { kind: 'natural' });

  /** A scale needs a panel of typed size. */
  protected readonly kinds = computed(() => {
    const correction = this.model.session.correction();
    return KINDS.map((k) => ({ ...k, possible: k.kind !== 'scale' || (correction !== null && givesScale(correction)) }));
  });

  protected readonly line = computed(() => {
    const size = this.model.shown()?.warp.outputSize;
    return size ? `${size.width} × ${size.height} px, ${((size.width * size.height) / 1e6).toFixed(1)} MP` : '';
  });

  /** How far typed proportions differ from the crop's, in words; empty where they do not. */
  protected readonly stretched = computed(() => {
    const warp = this.model.shown()?.warp;
    const size = this.size();
    if (!warp || (size.kind !== 'exact' && size.kind !== 'print')) return '';
    const by = warp.outputSize.width / warp.outputSize.height / (warp.crop.width / warp.crop.height);
    return Math.abs(by - 1) < STRETCH_SAID ? '' : `${(Math.abs(by - 1) * 100).toFixed(1)} % ${by > 1 ? 'wider' : 'narrower'}`;
  });

  /** A new kind of size starts from what would be written now. */
  protected choose(kind: string): void {
    const now = this.model.shown()?.warp.outputSize ?? { width: 3000, height: 2000 };
    const inch = (px: number): number => Math.round((px / 300) * 100) / 100;
    const sizes: Readonly<Record<Kind, OutputSize>> = {
      natural: { kind: 'natural' },
      'long-edge': { kind: 'long-edge', px: 2048 },
      exact: { kind: 'exact', width: now.width, height: now.height },
      print: { kind: 'print', width: inch(now.width), height: inch(now.height), unit: 'in', ppi: 300 },
      scale: { kind: 'scale', oneTo: 10, ppi: 300 },
      'no-enlargement': { kind: 'no-enlargement' },
    };
    this.set(sizes[kind as Kind]);
  }

  /** Typed numbers; one that makes no sense is put back. */
  protected type(field: HTMLInputElement, before: number, change: (value: number) => OutputSize, whole = false): void {
    const value = Number(field.value.replace(',', '.'));
    const usable = Number.isFinite(value) && value > 0;
    const next = usable ? change(whole ? Math.max(1, Math.round(value)) : value) : null;
    if (next && this.possible(next)) this.set(next);
    else field.value = String(before);
  }

  protected with<T extends OutputSize, K extends keyof T>(size: T, field: K): (value: number) => OutputSize {
    return (value) => ({ ...size, [field]: value });
  }

  protected setUnit(size: OutputSize, unit: string): void {
    if (size.kind === 'print') this.set({ ...size, unit: unit as 'mm' | 'cm' | 'in' });
  }

  /** The crop in the typed proportions, so that nothing is stretched. */
  protected takeProportions(): void {
    const size = this.size();
    if (size.kind === 'exact' || size.kind === 'print') this.model.session.commit((c) => withRatio(c, size.width / size.height));
  }

  private set(size: OutputSize): void {
    this.model.session.commit((c) => withSize(c, size));
  }

  /** Whether a size can be written at all. */
  private possible(size: OutputSize): boolean {
    const correction = this.model.session.committed();
    try {
      if (correction) composeWarp(withSize(correction, size), correction.picture);
      return true;
    } catch {
      return false;
    }
  }
}

const withSize = (c: Correction, size: OutputSize): Correction => ({ ...c, output: { ...c.output, size } });
