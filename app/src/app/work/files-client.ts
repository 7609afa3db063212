import { Injectable } from '@angular/core';
import type { BoardCalibration, BoardSize, BoardView, Size } from '@able-plumb/core';
import { Line } from './line';
import type { FilesWork, Inspected } from './protocol';

/** Decoded pixels that a worker may go on holding, bytes. */
const MOST_HELD_BYTES = 200e6;

/** Talks to the files' workers, which start with the first files. */
@Injectable({ providedIn: 'root' })
export class FilesClient {
  private readonly lines = [0, 1].map(
    () => new Line<FilesWork>(() => new Worker(new URL('./files.worker', import.meta.url), { type: 'module' })),
  );
  private asked = 0;

  /** For what is not asked of many files; the second worker starts with the second file. */
  private get line(): Line<FilesWork> {
    return this.lines[0] as Line<FilesWork>;
  }

  /** Both are there before the first file comes. */
  warm(): void {
    for (const line of this.lines) line.warm();
  }

  /**
   * Files are looked into two at a time.
   * @param opens whether it is opened next
   * @throws PictureFileError
   */
  async inspect(name: string, file: Blob, opens = false): Promise<Inspected> {
    const line = this.lines[this.asked % this.lines.length] as Line<FilesWork>;
    this.asked += 1;
    const inspected = await line.call((work) => work.inspect(name, file, opens));
    // with nothing else to do it would hold on to large pixels long after nobody needs them
    if (inspected.decoded && inspected.decoded.raster.data.byteLength > MOST_HELD_BYTES) line.end();
    return inspected;
  }

  board(name: string, file: Blob, board: BoardSize): ReturnType<FilesWork['board']> {
    return this.line.call((work) => work.board(name, file, board));
  }

  /** @throws PictureFileError */
  sheet(name: string, file: Blob, ppi: number | null, photographed: boolean): ReturnType<FilesWork['sheet']> {
    return this.line.call((work) => work.sheet(name, file, ppi, photographed));
  }

  calibrate(views: readonly BoardView[], across: number, size: Size): Promise<BoardCalibration> {
    return this.line.call((work) => work.calibrate(views, across, size));
  }
}
