/// <reference lib="webworker" />
import {
  byColours,
  calibrateBoard,
  estimateLateral,
  findBoard,
  fitEdges,
  followEdge,
  originalOf,
  applyWorkLight,
  settleCorners,
  workLightCurve,
  planeWarp,
  previewPixels,
  screenToPlane,
  sharedRaster,
  halveRaster,
  lensCentreOf,
  usedLateral,
  type PlaneWarp,
  type PositionMap,
  type Raster,
} from '@able-plumb/core';
import { looksFilled, readPictureInfo, readPixels, refuseCutShort, rgba8, type PictureInfo } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import {
  packError,
  type Envelope,
  type PictureRequestKind,
  type PictureRequests,
  type PreviewPixels,
  type PreviewRequest,
} from './protocol';

/* Holds the open picture: its original, its proxies; inspects files and draws drafts. */

useBrowserCodecs();

interface OpenPicture {
  readonly info: PictureInfo;
  /** The original first, then each half the size of the one before. */
  readonly levels: readonly Raster[];
  /** The work light's curve, made when it is first wanted. */
  readonly curve: () => Uint8Array;
}

/** Proxies end when the longer side is below this, px. */
const SMALLEST_PROXY = 320;
const THUMBNAIL_PX = 420;
/** Pictures kept decoded. */
const KEPT = 2;

const opened = new Map<string, OpenPicture>();
/** The picture that was asked for last. */
let wanted = '';

const handlers: { readonly [K in PictureRequestKind]: (ask: PictureRequests[K]['ask']) => Promise<PictureRequests[K]['answer']> } = {
  async inspect({ name, file }) {
    const bytes = new Uint8Array(await file.arrayBuffer());
    const read = await readPictureInfo(bytes, name);
    const { metadata: _kept, ...info } = read;
    const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
    const { thumbnail, filled } = await thumbnailOf(info.format === 'tiff' ? imageOf(await readPixels(bytes, name, read)) : file);
    // decoders fill with grey what is missing, and say nothing
    if (info.format === 'jpeg' && filled) refuseCutShort(bytes, name);
    return { info, sha256: Array.from(digest, (b) => b.toString(16).padStart(2, '0')).join(''), thumbnail };
  },

  async open({ pictureId, name, file }) {
    wanted = pictureId;
    const known = opened.get(pictureId);
    if (known) return { width: known.info.width, height: known.info.height };
    const bytes = new Uint8Array(await file.arrayBuffer());
    const info = await readPictureInfo(bytes, name);
    const decoded = await readPixels(bytes, name, info);
    const levels = [self.crossOriginIsolated ? sharedRaster(decoded) : decoded];
    for (let level = levels[0] as Raster; Math.max(level.width, level.height) > 2 * SMALLEST_PROXY;) {
      level = halveRaster(level);
      levels.push(level);
    }
    let curve: Uint8Array | null = null;
    opened.set(pictureId, { info, levels, curve: () => (curve ??= workLightCurve(levels[levels.length - 1] as Raster)) });
    // pictures that were asked for meanwhile may have been opened first: the one wanted last stays
    for (const id of opened.keys()) if (opened.size > KEPT && id !== wanted) opened.delete(id);
    return { width: info.width, height: info.height };
  },

  async preview(request) {
    return draw(requireOpen(request.pictureId), request);
  },

  async snap({ pictureId, a, b, reachPx }) {
    return fitEdges(requireOpen(pictureId).levels, a, b, reachPx);
  },

  async corners({ pictureId, corners, which, reachPx }) {
    return settleCorners(requireOpen(pictureId).levels, corners, which, reachPx);
  },

  async follow({ pictureId, a, b, reachPx, bend }) {
    return followEdge(requireOpen(pictureId).levels, a, b, reachPx, bend);
  },

  async fringes({ pictureId, centre }) {
    return estimateLateral(requireOpen(pictureId).levels[0] as Raster, centre);
  },

  async board({ name, file, board }) {
    const bytes = new Uint8Array(await file.arrayBuffer());
    const { metadata, ...info } = await readPictureInfo(bytes, name);
    return { info, corners: findBoard(await readPixels(bytes, name, { ...info, metadata }), board) };
  },

  async calibrate({ views, across, size }) {
    return calibrateBoard(views, across, size);
  },

  async source({ pictureId }) {
    const picture = opened.get(pictureId);
    return picture ? { raster: picture.levels[0] as Raster, metadata: picture.info.metadata } : null;
  },
};

/** Pixels for the browser, of a format that it does not read; halved until they are small enough. */
function imageOf(raster: Raster): ImageData {
  let small = raster;
  while (Math.max(small.width, small.height) > 4 * THUMBNAIL_PX) small = halveRaster(small);
  return new ImageData(rgba8(small), small.width, small.height);
}

const NO_THUMBNAIL = { thumbnail: null, filled: false };

/** A small JPEG by the browser's own decoder; null where it gives up, which says nothing about the file. Filled: its last row looks as decoders fill in what is missing. */
async function thumbnailOf(picture: Blob | ImageData): Promise<{ readonly thumbnail: Blob | null; readonly filled: boolean }> {
  let whole: ImageBitmap | null = null;
  try {
    whole = await createImageBitmap(picture);
    const scale = Math.min(1, THUMBNAIL_PX / Math.max(whole.width, whole.height));
    const canvas = new OffscreenCanvas(Math.max(1, Math.round(whole.width * scale)), Math.max(1, Math.round(whole.height * scale)));
    const context = canvas.getContext('2d');
    if (!context) return NO_THUMBNAIL;
    context.imageSmoothingQuality = 'high';
    context.drawImage(whole, 0, 0, canvas.width, canvas.height);
    const last = context.getImageData(0, canvas.height - 1, canvas.width, 1).data.filter((_, k) => k % 4 < 3);
    return { thumbnail: await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.85 }), filled: looksFilled(last) };
  } catch {
    return NO_THUMBNAIL;
  } finally {
    whole?.close();
  }
}

function requireOpen(pictureId: string): OpenPicture {
  const picture = opened.get(pictureId);
  if (!picture) throw new Error('The picture is not open.');
  return picture;
}

function draw({ info, levels, curve }: OpenPicture, { correction, view, density, sharp, workLight }: PreviewRequest): PreviewPixels {
  const warp = warpFor(correction, info);
  const width = Math.max(1, Math.round(view.stage.width * density));
  const height = Math.max(1, Math.round(view.stage.height * density));
  // the proxy whose pixels are about as large as the view's
  const wanted = sharp ? 1 : 1 / (view.scale * density);
  let level = 0;
  while (!sharp && level + 1 < levels.length && 2 ** (level + 1) <= wanted * 1.2) level += 1;
  const source = levels[level] as Raster;
  const [sx, sy] = [source.width / info.width, source.height / info.height];
  const origin = screenToPlane(view, [0, 0]);
  const far = screenToPlane(view, [view.stage.width, view.stage.height]);
  const [stepX, stepY] = [(far[0] - origin[0]) / width, (far[1] - origin[1]) / height];
  const map: PositionMap = (x, y, out) => {
    if (!warp.planeToPicture(origin[0] + x * stepX, origin[1] + y * stepY, out)) return false;
    out[0] = (out[0] as number) * sx;
    out[1] = (out[1] as number) * sy;
    return true;
  };
  const pixels = (through: PositionMap): Uint8ClampedArray<ArrayBuffer> =>
    previewPixels(source, through, { width, height }, sharp && view.scale > 3);
  // on a proxy the colours lie less than a pixel apart
  const lateral = level === 0 && source.channels >= 3 ? usedLateral(correction) : null;
  const data = lateral ? byColours(lateral, 4, lensCentreOf(correction), [sx, sy], source, map, pixels) : pixels(map);
  if (workLight) applyWorkLight(data, curve());
  return { width, height, data };
}

/** The warp of a correction; a stance that cannot be shown draws the original instead of nothing. */
function warpFor(correction: PreviewRequest['correction'], info: PictureInfo): PlaneWarp {
  try {
    return planeWarp(correction, info);
  } catch {
    return planeWarp(originalOf(correction), info);
  }
}

self.addEventListener('message', ({ data }: MessageEvent<Envelope<{ kind: PictureRequestKind; ask: never }>>) => {
  const { id, body } = data;
  handlers[body.kind](body.ask).then(
    (value) => {
      const transfer = value !== null && 'data' in value && value.data instanceof Uint8ClampedArray ? [value.data.buffer] : [];
      self.postMessage({ id, body: { ok: true, value } }, { transfer });
    },
    (error: unknown) => self.postMessage({ id, body: { ok: false, error: packError(error) } }),
  );
});
