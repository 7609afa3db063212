/// <reference lib="webworker" />
import {
  applyWorkLight,
  byColours,
  estimateLateral,
  fitEdges,
  followEdge,
  halveRaster,
  lensCentreOf,
  originalOf,
  planeWarp,
  previewPixels,
  screenToPlane,
  settleCorners,
  sharedRaster,
  usedLateral,
  workLightCurve,
  type PlaneWarp,
  type PositionMap,
  type Raster,
} from '@able-plumb/core';
import { readPictureInfo, readPixels, type PictureInfo } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { expose, moved } from './line';
import type { PreviewPixels, PreviewRequest, StageWork } from './protocol';

/* Holds the open pictures: their originals and proxies; draws drafts and finds edges in them. */

useBrowserCodecs();

interface OpenPicture {
  readonly info: PictureInfo;
  /** The original first, then each half the size of the one before. */
  readonly levels: readonly Raster[];
  readonly bytes: number;
  /** The work light's curve, made when it is first wanted. */
  readonly curve: () => Uint8Array;
}

/** Proxies end when the longer side is below this, px. */
const SMALLEST_PROXY = 320;
/** Pictures beside the open one are kept decoded up to this much together, bytes. */
const KEPT_BYTES = 260e6;

/** In the order in which they were last opened. */
const opened = new Map<string, OpenPicture>();

const work: StageWork = {
  async open(pictureId, name, file) {
    const known = opened.get(pictureId);
    if (known) {
      opened.delete(pictureId);
      opened.set(pictureId, known);
      return;
    }
    const bytes = new Uint8Array(await file.arrayBuffer());
    const info = await readPictureInfo(bytes, name);
    const decoded = await readPixels(bytes, name, info);
    const levels = [self.crossOriginIsolated ? sharedRaster(decoded) : decoded];
    for (let level = levels[0] as Raster; Math.max(level.width, level.height) > 2 * SMALLEST_PROXY;) {
      level = halveRaster(level);
      levels.push(level);
    }
    let curve: Uint8Array | null = null;
    opened.set(pictureId, {
      info,
      levels,
      bytes: levels.reduce((sum, { data }) => sum + data.byteLength, 0),
      curve: () => (curve ??= workLightCurve(levels[levels.length - 1] as Raster)),
    });
    let kept = 0;
    for (const [id, picture] of [...opened].reverse()) {
      kept += picture.bytes;
      if (id !== pictureId && kept > KEPT_BYTES) opened.delete(id);
    }
  },

  async preview(request) {
    const pixels = draw(requireOpen(request.pictureId), request);
    return moved(pixels, [pixels.data.buffer]);
  },

  async snap(pictureId, a, b, reachPx) {
    return fitEdges(requireOpen(pictureId).levels, a, b, reachPx);
  },

  async corners(pictureId, corners, which, reachPx) {
    return settleCorners(requireOpen(pictureId).levels, corners, which, reachPx);
  },

  async follow(pictureId, a, b, reachPx, bend) {
    return followEdge(requireOpen(pictureId).levels, a, b, reachPx, bend);
  },

  async fringes(pictureId, centre) {
    return estimateLateral(requireOpen(pictureId).levels[0] as Raster, centre);
  },

  async source(pictureId) {
    const picture = opened.get(pictureId);
    return picture ? { raster: picture.levels[0] as Raster, metadata: picture.info.metadata } : null;
  },
};

expose(work);

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
