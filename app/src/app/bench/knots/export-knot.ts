import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { MatProgressBar } from '@angular/material/progress-bar';
import { Store } from '@ngrx/store';
import { FILTERS, type FilterName } from '@able-plumb/core';
import { EXPORT_FORMATS, type ExportFormat } from '@able-plumb/codecs';
import type { ExportChoice } from '../../state/model';
import { shelfActions } from '../../state/shelf.actions';
import { Segments, type Segment } from '../../ui/segments';
import { saveFile } from '../../ui/save-file';
import { ExportCancelled, ExportClient, type ExportProgress } from '../../work/export-client';
import { BenchModel } from '../bench-model';
import { ExportFiles } from './export-files';
import { ExportSize } from './export-size';

type Outcome = { readonly ok: true; readonly name: string; readonly line: string } | { readonly ok: false; readonly line: string };

/** Export: name, format, quality, size, filter; progress and cancel. */
@Component({
  selector: 'ap-export-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ExportFiles, ExportSize, Segments, MatProgressBar],
  templateUrl: './export-knot.html',
  styleUrl: './knot.scss',
})
export class ExportKnot {
  private readonly store = inject(Store);
  private readonly exporter = inject(ExportClient);
  protected readonly model = inject(BenchModel);

  protected readonly formats: readonly Segment[] = [
    { value: 'jpeg', label: 'JPEG' },
    { value: 'png', label: 'PNG' },
  ];
  protected readonly depths: readonly Segment[] = [
    { value: '8', label: '8 bit' },
    { value: '16', label: '16 bit' },
  ];
  protected readonly chromas: readonly Segment[] = [
    { value: '4:4:4', label: 'full', hint: 'Colour at full resolution (4:4:4)' },
    { value: '4:2:0', label: 'halved', hint: 'Colour at half resolution (4:2:0): smaller files, written sooner' },
  ];
  protected readonly filters = Object.values(FILTERS);

  protected readonly choice = computed(() => this.model.settings().exportChoice);
  protected readonly filter = computed(() => this.model.correction()?.output.filter ?? 'lanczos3');
  protected readonly sentence = computed(() => FILTERS[this.filter()].sentence);
  protected readonly name = signal('');
  protected readonly progress = signal<ExportProgress | null>(null);
  protected readonly outcome = signal<Outcome | null>(null);
  protected readonly blocked = computed(() => this.model.shown()?.trouble ?? null);
  private abort: AbortController | null = null;

  constructor() {
    effect(() => {
      const picture = this.model.picture();
      // a new name: the original's own is never offered
      this.name.set(picture ? `${picture.name.replace(/\.[^.]*$/, '')}-plumb` : '');
      this.outcome.set(null);
    });
  }

  protected change(change: Partial<ExportChoice>): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { exportChoice: { ...this.choice(), ...change } } }));
  }

  protected setKind(kind: string): void {
    this.change({ kind: kind as ExportChoice['kind'] });
  }

  protected setBits(bits: string): void {
    this.change({ bits: bits === '16' ? 16 : 8 });
  }

  protected setChroma(chroma: string): void {
    this.change({ chroma: chroma as ExportChoice['chroma'] });
  }

  protected setQuality(field: HTMLInputElement): void {
    const quality = Math.round(Number(field.value));
    if (quality >= 1 && quality <= 100) this.change({ quality });
    field.value = String(this.choice().quality);
  }

  protected setFilter(name: string): void {
    this.model.commit((c) => ({ ...c, output: { ...c.output, filter: name as FilterName } }));
  }

  async run(): Promise<void> {
    const picture = this.model.picture();
    const correction = this.model.committed();
    if (!picture || !correction || this.progress() || this.blocked()) return;
    const choice = this.choice();
    const format: ExportFormat =
      choice.kind === 'jpeg' ? { kind: 'jpeg', quality: choice.quality, chroma: choice.chroma } : { kind: 'png', bits: choice.bits };
    const name = `${safeName(this.name()) || 'picture-plumb'}.${EXPORT_FORMATS[choice.kind].ending}`;
    this.outcome.set(null);
    this.abort = new AbortController();
    const started = performance.now();
    try {
      const file = await this.exporter.export(picture.id, correction, format, this.abort.signal, (progress) => this.progress.set(progress));
      saveFile(file, name);
      this.outcome.set({
        ok: true,
        name,
        line: `${(file.size / 1e6).toFixed(2)} MB, ${((performance.now() - started) / 1000).toFixed(1)} s. The original is untouched.`,
      });
    } catch (error) {
      const line =
        error instanceof ExportCancelled ? error.message : `${(error as Error).message} The original and your settings are safe.`;
      this.outcome.set({ ok: false, line });
    } finally {
      this.progress.set(null);
      this.abort = null;
    }
  }

  cancel(): void {
    this.abort?.abort();
  }
}

/** A file name without what file systems refuse. */
const safeName = (name: string): string =>
  name
    .trim()
    .replace(/[\\/:*?"<>|\p{Cc}]/gu, '-')
    .slice(0, 180);
