/// <reference lib="webworker" />
import { EXPORT_FORMATS, helpExport, leadExport, prepareHelpers, readPictureInfo, readPixels } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { packError, type RenderReply, type RenderRequest, type SourcePixels } from './protocol';

/* Decodes a picture and makes its file, or helps another one to; lives for one export, and is ended to cancel it. */

useBrowserCodecs();

const say = (reply: RenderReply): void => self.postMessage(reply);
const failed = (error: unknown): void => say({ kind: 'failed', error: packError(error) });

self.addEventListener('message', ({ data }: MessageEvent<RenderRequest>) => {
  if (data.kind === 'help') helpExport(data.leader, failed);
  else lead(data).catch(failed);
});

async function lead({ source, correction, crop, format, notes, helpers }: RenderRequest & { kind: 'lead' }): Promise<void> {
  prepareHelpers(helpers, correction, crop);
  const { raster, metadata } = 'file' in source ? await decoded(source) : source;
  say({ kind: 'rows', rows: 0 });
  const parts: Uint8Array<ArrayBuffer>[] = [];
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
    put: (bytes) => parts.push(bytes as Uint8Array<ArrayBuffer>),
  });
  // what is known last stands in the first part
  if (patch) parts[0]?.set(patch.bytes, patch.at);
  say({ kind: 'made', file: new Blob(parts, { type: EXPORT_FORMATS[format.kind].mime }) });
}

async function decoded({ name, file }: { readonly name: string; readonly file: Blob }): Promise<SourcePixels> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const info = await readPictureInfo(bytes, name);
  return { raster: await readPixels(bytes, name, info), metadata: info.metadata };
}
