/// <reference lib="webworker" />
import { renderBands } from '@able-plumb/core';
import { providePlatformJpeg, provideWasm, writePicture } from '@able-plumb/codecs';
import { packError, type RenderReply, type RenderRequest } from './protocol';

/* Renders bands of an export and encodes the result; lives for one export, and is ended to cancel it. */

provideWasm(async (name) =>
  WebAssembly.compileStreaming(fetch(new URL(`/codecs/${name === 'mozjpeg_dec' ? 'dec' : 'enc'}/${name}.wasm`, self.location.origin))),
);

// the canvas's encoder halves colour below quality 100, and is native code
providePlatformJpeg(async (rgba, width, height, quality) => {
  try {
    const canvas = new OffscreenCanvas(width, height);
    const context = canvas.getContext('2d', { alpha: false });
    if (!context) return null;
    context.putImageData(new ImageData(rgba, width, height), 0, 0);
    const blob = await canvas.convertToBlob({ type: 'image/jpeg', quality: quality / 100 });
    return blob.type === 'image/jpeg' ? new Uint8Array(await blob.arrayBuffer()) : null;
  } catch {
    // larger than the browser's canvases: the compiled encoder does it
    return null;
  }
});

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
