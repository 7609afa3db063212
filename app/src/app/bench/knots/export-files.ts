import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { appliedTo, marksSvg, parseCorrection, readingsCsv, stemOf } from '@able-plumb/core';
import { saveFile } from '../../ui/save-file';
import { BenchModel } from '../bench-model';

/** The correction as a file, out and in; lines and crop as SVG; readings as CSV. */
@Component({
  selector: 'ap-export-files',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h3>As files</h3>
    <div class="row">
      <button type="button" class="quiet" (click)="saveCorrection()" title="Everything set for this picture, as JSON">
        Save correction
      </button>
      <label class="quiet file" title="A correction from a file, for this picture">
        Apply a correction
        <input type="file" accept=".json" #file (change)="apply(file)" />
      </label>
      <button type="button" class="quiet" (click)="saveSvg()" title="What was pointed at and the crop, over the original">
        Lines (SVG)
      </button>
      <button type="button" class="quiet" (click)="saveCsv()" title="Every line before and after">Readings (CSV)</button>
    </div>
    @if (said(); as s) {
      <p class="note" [class.trouble]="s.trouble" [attr.role]="s.trouble ? 'alert' : 'status'">{{ s.text }}</p>
    }
  `,
  styleUrl: './knot.scss',
  host: { class: 'part' },
})
export class ExportFiles {
  private readonly model = inject(BenchModel);
  protected readonly said = signal<{ readonly text: string; readonly trouble: boolean } | null>(null);

  private save(text: string, type: string, ending: string): void {
    const stem = stemOf(this.model.session.picture()?.name ?? 'picture');
    saveFile(new Blob([text], { type }), `${stem}${ending}`);
  }

  protected saveCorrection(): void {
    const correction = this.model.session.committed();
    if (correction) this.save(`${JSON.stringify(correction, null, 2)}\n`, 'application/json', '.correction.json');
  }

  protected saveSvg(): void {
    const shown = this.model.shown();
    if (shown) this.save(marksSvg(shown.correction, shown.warp), 'image/svg+xml', '-lines.svg');
  }

  protected saveCsv(): void {
    const readings = this.model.readings();
    if (readings) this.save(readingsCsv(readings), 'text/csv', '-readings.csv');
  }

  protected async apply(input: HTMLInputElement): Promise<void> {
    const file = input.files?.[0];
    input.value = '';
    const picture = this.model.session.committed()?.picture;
    if (!file || !picture) return;
    try {
      let document: unknown;
      try {
        document = JSON.parse(await file.text());
      } catch (error) {
        throw new Error(`${file.name} is not JSON: ${(error as Error).message}. Nothing was changed.`);
      }
      const loaded = parseCorrection(document);
      const { correction, factor } = appliedTo(loaded, picture);
      this.model.session.commit(() => correction);
      const other = loaded.picture.sha256 !== undefined && picture.sha256 !== undefined && loaded.picture.sha256 !== picture.sha256;
      const from = `${loaded.picture.name || 'another picture'}, ${loaded.picture.width} × ${loaded.picture.height} px`;
      if (factor !== 1) {
        const text = `Applied, but it was made for ${from}: every position was scaled to this size. Look whether the lines still lie on their edges; undo takes it back.`;
        this.said.set({ text, trouble: true });
      } else if (other) this.said.set({ text: `Applied. It was made for ${from}; undo takes it back.`, trouble: false });
      else this.said.set({ text: 'Applied; undo takes it back.', trouble: false });
    } catch (error) {
      this.said.set({ text: (error as Error).message, trouble: true });
    }
  }
}
