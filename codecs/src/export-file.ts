import {
  composeWarp,
  drawnBands,
  drawnToBeFilled,
  filledChannels,
  fillRendered,
  fills,
  kernelName,
  resultChannels,
  resultSamples,
  sharedRaster,
  withFoundCrop,
  BAND_ROWS,
  type Correction,
  type ExportFormat,
  type Raster,
  type Rect,
  type RenderWork,
  type Warp,
} from '@able-plumb/core';
import { inOrder, type Put, type Shape } from './band-file';
import type { Metadata } from './metadata';
import type { Arriving } from './read-picture';
import { bandFile, EXPORT_FORMATS, needsWhole, writePicture, type FileNotes } from './write-picture';

/** What an export is made of, and what is told of it on the way. */
export interface ExportAsked {
  readonly correction: Correction;
  /** As it was found, plane px. */
  readonly crop: Rect;
  /** Its pixels, or these as they are being decoded, which helpers draw from meanwhile. */
  readonly source: Raster | Arriving;
  readonly metadata: Metadata;
  readonly format: ExportFormat;
  readonly notes: Omit<FileNotes, 'metadata' | 'filled'>;
  /** Ports of {@link helpExport} in other threads; none where memory cannot be shared. */
  readonly helpers: readonly MessagePort[];
  /** Rows that were drawn since it was last told. */
  readonly onRows?: (rows: number) => void;
  /** Helpers are done. */
  readonly onDrawn?: () => void;
  /** Share of the empty places that is filled, 0..1. */
  readonly onFilling?: (share: number) => void;
  /** Takes the file, part by part. */
  readonly put: Put;
}

/** What a helper is told: a correction to get ready for, then work, with the file that its bands are for; null for work in memory that all share. */
type HelpAsked = { readonly prepare: Correction } | { readonly work: RenderWork; readonly file: FileAsked | null };

/** What a helper says: that it has drawn rows, with the band made of them where the file is made in bands; or that nothing is left. */
type HelpSaid = { readonly rows: number; readonly index: number; readonly band: Uint8Array<ArrayBuffer> | null } | 'done';

/** What a thread needs to make bands of a file that another one binds. */
interface FileAsked {
  readonly drawn: Shape;
  readonly format: ExportFormat;
  readonly notes: FileNotes;
}

/** Where a file's bytes ended up, and what the picture has become. */
export interface ExportDone {
  readonly patch: { readonly at: number; readonly bytes: Uint8Array } | null;
  readonly width: number;
  readonly height: number;
  /** Share that was filled, 0..1. */
  readonly filled: number;
}

/** Has helpers compile and compose while the picture is being decoded. */
export function prepareHelpers(helpers: readonly MessagePort[], correction: Correction, crop: Rect): void {
  for (const helper of helpers) tell(helper, { prepare: toBeDrawn(correction, crop).drawn });
}

const tell = (helper: MessagePort, asked: HelpAsked): void => helper.postMessage(asked);

/** The correction with its crop as it was found: it is not looked for again, but whether it is clear is told by what was asked. */
function toBeDrawn(asked: Correction, crop: Rect): { readonly drawn: Correction; readonly warp: Warp; readonly filling: boolean } {
  const found = withFoundCrop(asked, { crop });
  const warp = composeWarp(found, found.picture);
  const filling = fills(asked, warp);
  return { drawn: filling ? drawnToBeFilled(found) : found, warp, filling };
}

/**
 * Draws a picture and makes a file of it, on this thread and those of its helpers. Bands are drawn, coded and bound as they become ready, so that
 * the result is never held whole, but for what needs all of it: filling, sharpening, a file that has to fit, a format without bands.
 * @throws PlumbError
 */
export async function leadExport(asked: ExportAsked): Promise<ExportDone> {
  const { correction, format, helpers, onRows, put } = asked;
  const arriving = 'more' in asked.source ? asked.source : null;
  const source = 'more' in asked.source ? asked.source.raster : asked.source;
  const { drawn, warp, filling } = toBeDrawn(correction, asked.crop);
  const { width, height } = warp.outputSize;
  const { alpha } = EXPORT_FORMATS[format.kind];
  const bits = source.data instanceof Uint16Array ? 16 : 8;
  const channels = filling ? filledChannels(source) : resultChannels(source, correction, alpha);
  const notes: FileNotes = { ...asked.notes, metadata: asked.metadata, filled: 0 };
  const whole = filling || needsWhole(format, notes);
  const file = whole ? null : bandFile({ width, height, channels, bits }, format, notes);
  const shared = helpers.length > 0;
  const work: RenderWork = {
    correction: drawn,
    source: shared ? sharedRaster(source) : source,
    arrived: arriving && new Int32Array(new SharedArrayBuffer(4)),
    channels,
    out: whole ? resultSamples(width * height * channels, bits, shared) : null,
    rows: file?.rows ?? BAND_ROWS,
    nextBand: new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4)),
  };
  const bound = file && inOrder(await file.bind(put));
  const helped = helpers.map(
    (helper) =>
      new Promise<void>((resolve, reject) => {
        helper.onmessage = ({ data }: MessageEvent<HelpSaid>): void => {
          if (data === 'done') return resolve();
          onRows?.(data.rows);
          if (data.band) bound?.add(data.index, data.band).catch(reject);
        };
        tell(helper, { work, file: file && { drawn: { width, height, channels, bits }, format, notes } });
      }),
  );
  const ours = async (): Promise<void> => {
    if (arriving && work.arrived) await decodeAll(arriving, work.arrived, shared);
    for (const { index, raster } of drawnBands(work, warp)) {
      if (file) await bound?.add(index, await file.make(raster));
      onRows?.(raster.height);
      // what helpers have sent is bound before the next band is drawn
      if (shared) await nextTurn();
    }
  };
  await Promise.all([ours(), ...helped]);
  asked.onDrawn?.();
  if (bound) return { patch: await bound.end(), width, height, filled: 0 };
  const raster: Raster = { width, height, channels, data: work.out as Raster['data'] };
  const result = filling ? fillRendered(raster, correction, warp, source, alpha, asked.onFilling) : { raster, share: 0 };
  put(await writePicture(result.raster, format, { ...notes, filled: result.share }));
  return { patch: null, width, height, filled: result.share };
}

/** Decodes what is being decoded to its end, and lets those who wait for rows know. */
async function decodeAll({ raster, more }: Arriving, arrived: Int32Array, shared: boolean): Promise<void> {
  for (let rows = 0; rows < raster.height;) {
    rows = await more();
    Atomics.store(arrived, 0, rows);
    Atomics.notify(arrived, 0);
    if (shared) await nextTurn();
  }
}

/**
 * Helps an export: draws what another thread leads, and makes bands of its file.
 * @param failed what could not be done ends the export
 */
export function helpExport(port: MessagePort, failed: (error: unknown) => void): void {
  kernelName();
  let warp: Warp | undefined;
  const say = (said: HelpSaid, moved: Transferable[] = []): void => port.postMessage(said, moved);
  const help = async (work: RenderWork, asked: FileAsked | null): Promise<void> => {
    const file = asked && bandFile(asked.drawn, asked.format, asked.notes);
    for (const { index, raster } of drawnBands(work, warp)) {
      const band = file && (await file.make(raster));
      say({ rows: raster.height, index, band }, band ? [band.buffer] : []);
    }
    say('done');
  };
  port.onmessage = ({ data }: MessageEvent<HelpAsked>): void => {
    if ('work' in data) return void help(data.work, data.file).catch(failed);
    try {
      warp = composeWarp(data.prepare, data.prepare.picture);
    } catch {
      // what cannot be composed says so when it is to be drawn
      warp = undefined;
    }
  };
}

/** The next turn of the event loop. */
const nextTurn = (): Promise<void> =>
  new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = (): void => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });
