import {
  bandDrawer,
  composeWarp,
  drawnBands,
  drawnToBeFilled,
  filledChannels,
  fillRendered,
  fills,
  firstStillRead,
  kernelName,
  newArrival,
  resultChannels,
  resultSamples,
  rowsToHold,
  sharedRaster,
  takeBand,
  isWide,
  withFoundCrop,
  BAND_ROWS,
  type Arrival,
  type Correction,
  type ExportFormat,
  type Raster,
  type Rect,
  type RenderWork,
  type Source,
  type Warp,
} from '@able-plumb/core';
import { inOrder, type Put, type Shape } from './band-file';
import type { Metadata } from './metadata';
import type { Arriving } from './picture-rows';
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
  /** Bytes up to which a source that is being decoded lies in memory whole, so that decoding and drawing never wait for each other; 256 MB by default. */
  readonly wholeBytes?: number;
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
  const like = 'more' in asked.source ? asked.source : shapeOf(asked.source);
  const { drawn, warp, filling } = toBeDrawn(correction, asked.crop);
  const { width, height } = warp.outputSize;
  const { alpha } = EXPORT_FORMATS[format.kind];
  const { bits } = like;
  const channels = filling ? filledChannels(like) : resultChannels(like, correction, alpha);
  const notes: FileNotes = { ...asked.notes, metadata: asked.metadata, filled: 0 };
  const whole = filling || needsWhole(format, notes);
  const file = whole ? null : bandFile({ width, height, channels, bits }, format, notes);
  const rows = file?.rows ?? BAND_ROWS;
  const shared = helpers.length > 0;
  const arrival = arriving && newArrival(drawn, warp, rows, shared);
  const held = arriving && arrival ? rowsInMemory(arriving, arrival, helpers.length, asked.wholeBytes) : like.height;
  const source: Source = 'more' in asked.source ? asked.source.into(held) : shared ? sharedRaster(asked.source) : asked.source;
  const work: RenderWork = {
    correction: drawn,
    source,
    arrival,
    channels,
    out: whole ? resultSamples(width * height * channels, bits, shared) : null,
    rows,
    nextBand: new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4)),
  };
  const bound = file && inOrder(await file.bind(put));
  let heard = (): void => undefined;
  const helped = helpers.map(
    (helper) =>
      new Promise<void>((resolve, reject) => {
        helper.onmessage = ({ data }: MessageEvent<HelpSaid>): void => {
          heard();
          if (data === 'done') return resolve();
          onRows?.(data.rows);
          if (data.band) bound?.add(data.index, data.band).catch(reject);
        };
        tell(helper, { work, file: file && { drawn: { width, height, channels, bits }, format, notes } });
      }),
  );
  const ours = async (): Promise<void> => {
    const draw = bandDrawer(work, warp);
    const count = Math.ceil(height / rows);
    for (let decoded = !arriving; ;) {
      if (arriving && arrival && !decoded && hasRoom(arriving, arrival, held)) {
        const there = await arriving.more();
        Atomics.store(arrival.there, 0, there);
        Atomics.notify(arrival.there, 0);
        decoded = there === arriving.height;
        if (shared) await nextTurn();
        continue;
      }
      const index = takeBand(work, count);
      if (index === null && decoded) return;
      // others still draw from the rows that lie where the next ones go
      if (index === null) await new Promise<void>((resolve) => (heard = resolve));
      else {
        const { raster } = draw(index);
        if (file) await bound?.add(index, await file.make(raster));
        onRows?.(raster.height);
        // what helpers have sent is bound before the next band is drawn
        if (shared) await nextTurn();
      }
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

const shapeOf = (raster: Raster): Shape => ({ ...raster, bits: isWide(raster) ? 16 : 8 });

/** How many rows of a source that is being decoded shall lie in memory. */
function rowsInMemory({ width, height, channels, bits, step }: Arriving, arrival: Arrival, helpers: number, wholeBytes = 2 ** 28): number {
  if (width * height * channels * (bits / 8) <= wholeBytes) return height;
  return rowsToHold(arrival, height, 2 * (helpers + 1), step);
}

/** Whether the next rows may be decoded: nobody has to read those in whose place they go. */
function hasRoom({ height, step }: Arriving, arrival: Arrival, held: number): boolean {
  if (held >= height) return true;
  return Math.min(height, Atomics.load(arrival.there, 0) + step) <= firstStillRead(arrival, height) + held;
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
