import { Injectable } from '@angular/core';
import type { BoardCalibration, BoardSize, BoardView, Size } from '@able-plumb/core';
import { Line } from './line';
import type { FilesWork, Inspected } from './protocol';

/** Talks to the files' worker, which starts with the first file. */
@Injectable({ providedIn: 'root' })
export class FilesClient {
  private readonly line = new Line<FilesWork>(() => new Worker(new URL('./files.worker', import.meta.url), { type: 'module' }));

  /** @throws PictureFileError */
  inspect(name: string, file: Blob): Promise<Inspected> {
    return this.line.call((work) => work.inspect(name, file));
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
