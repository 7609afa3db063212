import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { appliedTo, marksSvg, parseCorrection, readingsCsv, stemOf } from '@able-plumb/core';
import { Passing } from '../../../ui/passing';
import { saveFile } from '../../../ui/save-file';
import { Found } from '../../session/found';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { FilePick } from '../../../ui/file-pick';

/** The correction as a file, out and in; lines and crop as SVG; readings as CSV. */
@Component({
  selector: 'ap-export-files',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FilePick, MatButton, MatTooltip],
  template: `
    <h3>As files</h3>
    <div class="row">
      <button type="button" matButton (click)="saveCorrection()" matTooltip="Everything set for this picture, as JSON">
        Save correction
      </button>
      <ap-file-pick label="Apply a correction" accept=".json" hint="A correction from a file, for this picture" (picked)="apply($event)" />
      <button type="button" matButton (click)="saveSvg()" matTooltip="What was pointed at and the crop, over the original">
        Lines (SVG)
      </button>
      <button type="button" matButton (click)="saveCsv()" matTooltip="Every line before and after">Readings (CSV)</button>
    </div>
    @if (trouble(); as sentence) {
      <p class="note trouble" role="alert">{{ sentence }}</p>
    }
  `,
  styleUrl: './export.scss',
  host: { class: 'part' },
})
export class ExportFiles {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly found = inject(Found);
  private readonly passing = inject(Passing);
  protected readonly trouble = signal<string | null>(null);

  private save(text: string, type: string, ending: string): void {
    const stem = stemOf(this.session.picture()?.name ?? 'picture');
    saveFile(new Blob([text], { type }), `${stem}${ending}`);
  }

  protected saveCorrection(): void {
    const correction = this.session.committed();
    if (correction) this.save(`${JSON.stringify(correction, null, 2)}\n`, 'application/json', '.correction.json');
  }

  protected saveSvg(): void {
    const shown = this.picture.shown();
    if (shown) this.save(marksSvg(shown.correction, shown.warp), 'image/svg+xml', '-lines.svg');
  }

  protected saveCsv(): void {
    const readings = this.picture.readings();
    if (readings) this.save(readingsCsv(readings, this.found.opinion()), 'text/csv', '-readings.csv');
  }

  protected async apply([file]: readonly File[]): Promise<void> {
    const picture = this.session.committed()?.picture;
    if (!file || !picture) return;
    this.trouble.set(null);
    try {
      let document: unknown;
      try {
        document = JSON.parse(await file.text());
      } catch (error) {
        throw new Error(`${file.name} is not JSON: ${(error as Error).message}. Nothing was changed.`);
      }
      const loaded = parseCorrection(document);
      const { correction, factor } = appliedTo(loaded, picture);
      this.session.commit(() => correction);
      const other = loaded.picture.sha256 !== undefined && picture.sha256 !== undefined && loaded.picture.sha256 !== picture.sha256;
      const from = `${loaded.picture.name || 'another picture'}, ${loaded.picture.width} × ${loaded.picture.height} px`;
      if (factor !== 1) {
        const text = `Applied, but it was made for ${from}: every position was scaled to this size. Look whether the lines still lie on their edges; undo takes it back.`;
        this.trouble.set(text);
      } else this.passing.say(other ? `Applied. It was made for ${from}; undo takes it back.` : 'Applied; undo takes it back.');
    } catch (error) {
      this.trouble.set((error as Error).message);
    }
  }
}
