import { ChangeDetectionStrategy, Component, inject, output, signal } from '@angular/core';
import { MatProgressBar } from '@angular/material/progress-bar';
import { MatTableModule } from '@angular/material/table';
import { lensFactsOf, profileFrom, type BoardCalibration, type BoardView, type Size } from '@able-plumb/core';
import { LensKeeper } from '../keeper/lens-keeper';
import { FilesClient } from '../work/files-client';
import { NumberField } from '../ui/number-field';
import { FilePick } from '../ui/file-pick';

/** What became of one picture of a board. */
interface BoardRow {
  readonly name: string;
  readonly words: string;
}

/** A lens profile from pictures of a checkerboard: files in, corners found, lens and focal length out. */
@Component({
  selector: 'ap-board-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FilePick, MatProgressBar, MatTableModule, NumberField],
  template: `
    <h2>From a checkerboard</h2>
    <p>Three pictures are the least, ten or more are good: the board flat, tilted this way and that, reaching into the corners too.</p>
    <div class="board">
      <span aria-hidden="true">Inner corners across</span>
      <ap-number label="Inner corners across" [least]="3" [most]="60" [value]="across()" (taken)="across.set($event)" />
      <span aria-hidden="true">down</span>
      <ap-number label="Inner corners down" [least]="3" [most]="60" [value]="down()" (taken)="down.set($event)" />
    </div>
    <ap-file-pick label="Calibrate from pictures" look="outlined" [multiple]="true" [disabled]="work() !== null" (picked)="run($event)" />
    @if (work(); as w) {
      <div class="work" role="status">
        <span>{{ w.text }}</span>
        <mat-progress-bar [value]="w.share * 100" aria-label="Finding the boards" />
      </div>
    }
    @if (trouble(); as t) {
      <p class="trouble" role="alert">{{ t }}</p>
    }
    @if (result(); as r) {
      <p role="status">{{ r }}</p>
    }
    @if (rows().length > 0) {
      <table mat-table [dataSource]="rows()" aria-label="Pictures of the board">
        <ng-container matColumnDef="name">
          <th mat-header-cell *matHeaderCellDef>Picture</th>
          <td mat-cell *matCellDef="let row">{{ row.name }}</td>
        </ng-container>
        <ng-container matColumnDef="words">
          <th mat-header-cell *matHeaderCellDef class="num">off by</th>
          <td mat-cell *matCellDef="let row" class="num">{{ row.words }}</td>
        </ng-container>
        <tr mat-header-row *matHeaderRowDef="columns"></tr>
        <tr mat-row *matRowDef="let row; columns: columns"></tr>
      </table>
    }
  `,
  styleUrl: './board-card.scss',
})
export class BoardCard {
  /** Id of the profile that was made. */
  readonly made = output<string>();
  private readonly inFiles = inject(FilesClient);
  private readonly lenses = inject(LensKeeper);

  protected readonly work = signal<{ readonly text: string; readonly share: number } | null>(null);
  protected readonly trouble = signal<string | null>(null);
  protected readonly result = signal<string | null>(null);
  protected readonly rows = signal<readonly BoardRow[]>([]);

  protected readonly columns = ['name', 'words'];
  /** Inner corners of the board: places where four squares meet. */
  protected readonly across = signal(9);
  protected readonly down = signal(6);

  protected async run(files: readonly File[]): Promise<void> {
    if (this.work()) return;
    this.trouble.set(null);
    this.result.set(null);
    this.rows.set([]);
    try {
      await this.calibrate(files, this.across(), this.down());
    } catch (error) {
      this.trouble.set((error as Error).message);
    } finally {
      this.work.set(null);
    }
  }

  private async calibrate(files: readonly File[], across: number, down: number): Promise<void> {
    const views: BoardView[] = [];
    const left: BoardRow[] = [];
    let facts: ReturnType<typeof lensFactsOf> | null = null;
    let any: ReturnType<typeof lensFactsOf> | null = null;
    for (const [i, file] of files.entries()) {
      this.work.set({ text: `Finding the board: ${i + 1} of ${files.length}`, share: i / files.length });
      try {
        const { info, corners } = await this.inFiles.board(file.name, file, { across, down });
        any ??= lensFactsOf(info);
        // a picture without a board says nothing, not even which size the others have
        if (corners) facts ??= lensFactsOf(info);
        const other = facts !== null && (info.width !== facts.width || info.height !== facts.height);
        if (corners && !other) views.push({ name: file.name, corners });
        else left.push({ name: file.name, words: other ? 'another size' : 'no whole board' });
      } catch (error) {
        left.push({ name: file.name, words: (error as Error).message });
      }
      this.rows.set(left);
    }
    if (!any) throw new Error('None of these files is a picture that can be opened.');
    facts ??= any;
    this.work.set({ text: `Solving lens and focal length from ${views.length} pictures`, share: 1 });
    const size: Size = { width: facts.width, height: facts.height };
    const found = await this.inFiles.calibrate(views, across, size);
    await this.keep(found, facts, left);
  }

  private async keep(found: BoardCalibration, facts: ReturnType<typeof lensFactsOf>, left: readonly BoardRow[]): Promise<void> {
    const { model, errorPx, focalSdPx, views, reach } = found;
    const focalPx = Math.sqrt(model.fx * model.fy);
    const madeFrom = `${views.length} pictures of a checkerboard, ${errorPx.toFixed(2)} px root mean square`;
    const name = facts.lens ?? facts.camera ?? 'Lens from a checkerboard';
    const profile = profileFrom({ model, focalPx, reach, madeFrom }, facts, crypto.randomUUID(), name);
    await this.lenses.save(profile);
    this.rows.set([...views.map((v) => ({ name: v.name, words: `${v.errorPx.toFixed(2)} px` })), ...left]);
    this.result.set(
      `Saved: focal length ${focalPx.toFixed(1)} ± ${focalSdPx.toFixed(1)} px, corners ${errorPx.toFixed(2)} px off (root mean square).`,
    );
    this.made.emit(profile.id);
  }
}
