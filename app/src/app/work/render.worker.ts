/// <reference lib="webworker" />
import { renderBands } from '@able-plumb/core';
import { provideWasm, writePicture } from '@able-plumb/codecs';
import { packError, type RenderReply, type RenderRequest } from './protocol';

/* Renders bands of an export and encodes the result; lives for one export, and is ended to cancel it. */

provideWasm(async (name) =>
  WebAssembly.compileStreaming(fetch(new URL(`/codecs/${name === 'mozjpeg_dec' ? 'dec' : 'enc'}/${name}.wasm`, self.location.origin))),
);

const say = (reply: RenderReply, transfer: Transferable[] = []): void => self.postMessage(reply, { transfer });

self.addEventListener('message', ({ data }: MessageEvent<RenderRequest>) => {
  handle(data).catch((error: unknown) => say({ kind: 'failed', error: packError(error) }));
});

async function handle(request: RenderRequest): Promise<void> {
  switch (request.kind) {
    case 'render':
      renderBands(request.work, (rows) => say({ kind: 'rows', rows }));
      say({ kind: 'rendered', out: request.work.out });
      return;
    case 'encode': {
      const file = await writePicture(request.raster, request.format, request.metadata, request.ppi);
      say({ kind: 'encoded', file }, [file.buffer]);
    }
  }
}
