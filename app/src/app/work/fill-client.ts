import { inject, Injectable } from '@angular/core';
import type { Correction, Rect } from '@able-plumb/core';
import { Line } from './line';
import type { FillPreviewImages, FillWork } from './protocol';
import { StageClient } from './stage-client';

/** Fills small results of the open picture. */
@Injectable({ providedIn: 'root' })
export class FillClient {
  private readonly stage = inject(StageClient);
  private readonly line = new Line<FillWork>(() => new Worker(new URL('./fill.worker', import.meta.url), { type: 'module' }));

  /**
   * What filling makes of the empty edges of a crop; null where the picture does not lie open.
   * @param longEdge of the small result, px
   * @throws PlumbError where nothing can be filled
   */
  async preview(pictureId: string, correction: Correction, crop: Rect, longEdge: number): Promise<FillPreviewImages | null> {
    const source = await this.stage.copy(pictureId, 2 * longEdge);
    return source && this.line.call((work) => work.preview({ source, correction, crop, longEdge }));
  }
}
