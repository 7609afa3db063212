/// <reference lib="webworker" />
import {
  composeWarp,
  drawnToBeFilled,
  filledChannels,
  fillRendered,
  fills,
  renderBands,
  resultChannels,
  resultSamples,
  sharedRaster,
  withFoundCrop,
  type Correction,
  type Raster,
  type RenderWork,
  type Warp,
} from '@able-plumb/core';
import { readPictureInfo, readPixels, writePicture, type Metadata } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { packError, type RenderReply, type RenderRequest, type SourcePixels } from './protocol';

/* Decodes a picture, renders bands of its export and encodes the result; lives for one export, and is ended to cancel it. */

useBrowserCodecs();

const say = (reply: RenderReply, transfer: Transferable[] = []): void => self.postMessage(reply, { transfer });

self.addEventListener('message', ({ data }: MessageEvent<RenderRequest>) => {
  handle(data).catch((error: unknown) => say({ kind: 'failed', error: packError(error) }));
});

interface Rendered {
  readonly raster: Raster;
  readonly metadata: Metadata;
  /** What it takes to fill it, where it is to be; the original is let go otherwise. */
  readonly toFill: { readonly asked: Correction; readonly warp: Warp; readonly source: Raster; readonly alpha: boolean } | null;
  /** Share that was filled. */
  readonly filled: number;
}

/** What the leader has rendered. */
let rendered: Rendered | undefined;

async function handle(request: RenderRequest): Promise<void> {
  switch (request.kind) {
    case 'lead': {
      const { correction: asked, crop, alpha, helpers } = request;
      const { raster: source, metadata } = 'file' in request.source ? await decoded(request.source) : request.source;
      say({ kind: 'rows', rows: 0 });
      // the crop is not looked for again, but whether it is clear is told by what was asked
      const found = withFoundCrop(asked, { crop });
      const warp = composeWarp(found, found.picture);
      const { width, height } = warp.outputSize;
      const filling = fills(asked, warp);
      const correction = filling ? drawnToBeFilled(found) : found;
      const channels = filling ? filledChannels(source) : resultChannels(source, asked, alpha);
      const shared = helpers.length > 0;
      const out = resultSamples(width * height * channels, source.data instanceof Uint16Array ? 16 : 8, shared);
      const nextBand = new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4));
      const work: RenderWork = { correction, source: shared ? sharedRaster(source) : source, channels, out, nextBand };
      for (const helper of helpers) helper.postMessage(work);
      draw(work);
      const toFill = filling ? { asked, warp, source, alpha } : null;
      rendered = { raster: { width, height, channels, data: out }, metadata, toFill, filled: 0 };
      return;
    }
    case 'help':
      request.leader.onmessage = ({ data }: MessageEvent<RenderWork>): void => {
        try {
          draw(data);
        } catch (error) {
          say({ kind: 'failed', error: packError(error) });
        }
      };
      return;
    case 'fill': {
      if (rendered?.toFill) {
        const { raster: drawn, metadata, toFill } = rendered;
        const { raster, share } = fillRendered(drawn, toFill.asked, toFill.warp, toFill.source, toFill.alpha, (done) =>
          say({ kind: 'filling', share: done }),
        );
        rendered = { raster, metadata, toFill: null, filled: share };
      }
      say({ kind: 'filled' });
      return;
    }
    case 'encode': {
      if (!rendered) throw new Error('Nothing was rendered.');
      const { raster, metadata, filled } = rendered;
      const file = await writePicture(raster, request.format, { ...request.notes, metadata, filled });
      say({ kind: 'encoded', file }, [file.buffer]);
    }
  }
}

async function decoded({ name, file }: { readonly name: string; readonly file: Blob }): Promise<SourcePixels> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const info = await readPictureInfo(bytes, name);
  return { raster: await readPixels(bytes, name, info), metadata: info.metadata };
}

function draw(work: RenderWork): void {
  renderBands(work, (rows) => say({ kind: 'rows', rows }));
  say({ kind: 'rendered' });
}
