/// <reference lib="webworker" />
import { renderBands, sharedRaster } from '@able-plumb/core';
import { readPictureInfo, readPixels, writePicture } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { packError, type RenderReply, type RenderRequest } from './protocol';

/* Decodes a picture, renders bands of its export and encodes the result; lives for one export, and is ended to cancel it. */

useBrowserCodecs();

const say = (reply: RenderReply, transfer: Transferable[] = []): void => self.postMessage(reply, { transfer });

self.addEventListener('message', ({ data }: MessageEvent<RenderRequest>) => {
  handle(data).catch((error: unknown) => say({ kind: 'failed', error: packError(error) }));
});

async function handle(request: RenderRequest): Promise<void> {
  switch (request.kind) {
    case 'decode': {
      const bytes = new Uint8Array(await request.file.arrayBuffer());
      const info = await readPictureInfo(bytes, request.name);
      const raster = await readPixels(bytes, request.name, info);
      say({ kind: 'decoded', raster: self.crossOriginIsolated ? sharedRaster(raster) : raster, metadata: info.metadata });
      return;
    }
    case 'render':
      renderBands(request.work, (rows) => say({ kind: 'rows', rows }));
      say({ kind: 'rendered', out: request.work.out });
      return;
    case 'encode': {
      const file = await writePicture(request.raster, request.format, request.notes);
      say({ kind: 'encoded', file }, [file.buffer]);
    }
  }
}
