/// <reference lib="webworker" />
import { kernelName, type Raster } from '@able-plumb/core';
import {
  arrivingPixels,
  EXPORT_FORMATS,
  helpExport,
  leadExport,
  prepareHelpers,
  readPictureInfo,
  readShared,
  type Arriving,
  type Metadata,
} from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { FileParts } from './file-parts';
import { packError, type RenderReply, type RenderRequest } from './protocol';

/* Decodes pictures and makes their files, or helps another one to; is ended to cancel. */

useBrowserCodecs();

const say = (reply: RenderReply): void => self.postMessage(reply);
const failed = (error: unknown): void => say({ kind: 'failed', error: packError(error) });

let helpers: readonly MessagePort[] = [];

self.addEventListener('message', ({ data }: MessageEvent<RenderRequest>) => {
  if (data.kind === 'help') helpExport(data.leader, failed);
  else if (data.kind === 'lead') {
    helpers = data.helpers;
    // the kernel is compiled before there are pixels
    kernelName();
  } else make(data).catch(failed);
});

async function make({ source, correction, crop, format, notes }: RenderRequest & { kind: 'make' }): Promise<void> {
  prepareHelpers(helpers, correction, crop);
  const { raster, metadata } = 'file' in source ? await decoded(source) : source;
  say({ kind: 'rows', rows: 0 });
  const parts = new FileParts();
  const { patch } = await leadExport({
    source: raster,
    metadata,
    correction,
    crop,
    format,
    notes,
    helpers,
    onRows: (rows) => say({ kind: 'rows', rows }),
    onDrawn: () => say({ kind: 'drawn' }),
    onFilling: (share) => say({ kind: 'filling', share }),
    put: (bytes) => parts.add(bytes as Uint8Array<ArrayBuffer>),
  });
  say({ kind: 'made', file: parts.file(EXPORT_FORMATS[format.kind].mime, patch) });
}

/** Pixels as they are being decoded, where the file allows it. */
async function decoded({
  name,
  file,
}: {
  readonly name: string;
  readonly file: Blob;
}): Promise<{ readonly raster: Raster | Arriving; readonly metadata: Metadata }> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const info = await readPictureInfo(bytes, name);
  return { raster: arrivingPixels(bytes, name, info) ?? (await readShared(bytes, name, info)), metadata: info.metadata };
}
