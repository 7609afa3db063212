/// <reference lib="webworker" />
import {
  composeWarp,
  renderBands,
  resultChannels,
  resultSamples,
  sharedRaster,
  withFoundCrop,
  type Raster,
  type RenderWork,
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

/** What the leader has rendered. */
let rendered: { readonly raster: Raster; readonly metadata: Metadata } | undefined;

async function handle(request: RenderRequest): Promise<void> {
  switch (request.kind) {
    case 'lead': {
      const { correction: asked, crop, alpha, helpers } = request;
      const { raster: source, metadata } = 'file' in request.source ? await decoded(request.source) : request.source;
      say({ kind: 'rows', rows: 0 });
      // the crop is not looked for again, but whether it is clear is told by what was asked
      const correction = withFoundCrop(asked, { crop });
      const { width, height } = composeWarp(correction, correction.picture).outputSize;
      const channels = resultChannels(source, asked, alpha);
      const shared = helpers.length > 0;
      const out = resultSamples(width * height * channels, source.data instanceof Uint16Array ? 16 : 8, shared);
      const nextBand = new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4));
      const work: RenderWork = { correction, source: shared ? sharedRaster(source) : source, channels, out, nextBand };
      for (const helper of helpers) helper.postMessage(work);
      draw(work);
      rendered = { raster: { width, height, channels, data: out }, metadata };
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
    case 'encode': {
      if (!rendered) throw new Error('Nothing was rendered.');
      const { raster, metadata } = rendered;
      const file = await writePicture(raster, request.format, { ...request.notes, metadata });
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
