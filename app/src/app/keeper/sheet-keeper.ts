import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { pieceCorrection, pieceName, safeName, sheetOf, stemOf, type FoundSheet } from '@able-plumb/core';
import { correctionsFeature } from '../state/corrections.reducer';
import { selectPictureEntities } from '../state/selectors';
import type { Picture } from '../state/model';
import { FilesClient } from '../work/files-client';
import { Shelf } from '../shelf/shelf';
import { DocumentKeeper } from './document-keeper';
import { JobKeeper } from './job-keeper';

/** Sheets: what lies on them, and the pictures that are made of their pieces. */
@Injectable({ providedIn: 'root' })
export class SheetKeeper {
  private readonly store = inject(Store);
  private readonly shelf = inject(Shelf);
  private readonly files = inject(FilesClient);
  private readonly jobs = inject(JobKeeper);
  private readonly documents = inject(DocumentKeeper);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);

  /**
   * Finds the prints on a picture. Its small copy is made anew on the way, large enough for small pictures of them.
   * @throws PictureFileError; Error when its file is lost
   */
  async find(sheet: Picture, ppi: number | null, photographed: boolean): Promise<FoundSheet> {
    const file = await this.jobs.original(sheet.id);
    if (!file) throw new Error(`The file of ${sheet.name} is no longer in this browser.`);
    const { found, thumbnail } = await this.files.sheet(sheet.name, file, ppi, photographed);
    if (thumbnail && this.entities()[sheet.id]) await this.shelf.saveThumbnail(sheet.original ?? sheet.id, thumbnail);
    return found;
  }

  /** Pictures of the same job that are made of the same original. */
  sharing({ id, original, jobId }: Picture): readonly Picture[] {
    const key = original ?? id;
    return Object.values(this.entities()).flatMap((p) =>
      p && p.id !== id && p.jobId === jobId && (p.original ?? p.id) === key ? [p] : [],
    );
  }

  /**
   * Makes a picture of every piece that has none yet, right behind the sheet in the pieces' order.
   * @returns the ids of the pictures of all its pieces, in their order; how many of them are new
   */
  async split(sheet: Picture): Promise<{ readonly ids: readonly string[]; readonly made: number }> {
    const others = this.sharing(sheet);
    await this.documents.loadHistories([sheet.id, ...others.map((p) => p.id)]);
    const own = this.histories()[sheet.id]?.present;
    if (!own) throw new Error(`${sheet.name} is no longer there.`);
    const of = sheetOf(own);
    const made = new Map(others.flatMap(({ id }) => [[this.histories()[id]?.present.piece?.id ?? '', id] as const]));
    const ids: string[] = [];
    let count = 0;
    let after = sheet.id;
    for (const [i, piece] of of.pieces.entries()) {
      const known = made.get(piece.id);
      if (known === undefined) {
        const stem = safeName(pieceName(of.pattern, stemOf(sheet.name), i + 1)) || `piece-${i + 1}`;
        const correction = this.jobs.withStandingDeliveries(pieceCorrection(own.picture, piece, of));
        const picture = await this.jobs.addCopy(sheet, `${stem}.${sheet.name.split('.').pop() ?? 'jpg'}`, correction, { after });
        if (!picture) throw new Error(`The job of ${sheet.name} was removed meanwhile.`);
        ids.push(picture.id);
        count += 1;
      } else ids.push(known);
      after = ids.at(-1) as string;
    }
    return { ids, made: count };
  }
}
