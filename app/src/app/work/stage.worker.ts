/// <reference lib="webworker" />
import {
  apartIn,
  applyWorkLight,
  boundsOf,
  throughLattice,
  toPlane,
  estimateLateral,
  fitEdges,
  followEdge,
  forScreen,
  levelsOf,
  originalOf,
  planeWarp,
  previewPixels,
  SEARCHED_PX,
  rectCorners,
  screenToPlane,
  settleCorners,
  shimParts,
  workLightCurve,
  type Lattice,
  type PlaneWarp,
  type Point,
  type PositionMap,
  type Raster,
  type Size,
} from '@able-plumb/core';
import { latticeOf, PictureFileError, readPictureInfo, readShared, type ColourSpace, type PictureInfo } from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { expose, moved } from './line';
import type { PreviewPixels, PreviewRequest, StageWork } from './protocol';
import { withBytes } from './with-bytes';

/* Holds the open pictures: their originals and proxies; draws drafts and finds edges in them. */

useBrowserCodecs();

interface OpenPicture {
  readonly info: PictureInfo;
  /** The original first, then each half the size of the one before. */
  readonly levels: readonly Raster[];
  readonly bytes: number;
  /** The colours' way to the screen; null where they are shown as they are. */
  readonly lattice: Lattice | null;
  readonly space: ColourSpace;
  /** A level as the screen shows it: in the screen's space, made when it is first wanted. */
  readonly shown: (level: number) => Raster;
  /** The work light's curve, made when it is first wanted. */
  readonly curve: () => Uint8Array;
}

/** Proxies end when the longer side is below this, px. */
const SMALLEST_PROXY = 320;
/** Pictures beside the open one are kept decoded up to this much together, bytes. */
const KEPT_BYTES = 260e6;

/** Larger originals are not kept a second time in the screen's colours, px: what is drawn of them is converted as it is drawn. */
const LARGEST_SHOWN = 64e6;

/** In the order in which they were last opened. */
const opened = new Map<string, OpenPicture>();

const work: StageWork = {
  open: (pictureId, name, ...rest) =>
    openPicture(pictureId, name, ...rest).catch((error: unknown) => {
      // what typed arrays say of it tells a photographer nothing
      throw error instanceof RangeError
        ? new PictureFileError(
            'no-room',
            `There is no room in memory for ${name}.`,
            'Close other pages and open it again; nothing was changed.',
          )
        : error;
    }),

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

  async searched(pictureId) {
    const levels = opened.get(pictureId)?.levels;
    return levels?.find(({ width, height }) => Math.max(width, height) <= SEARCHED_PX) ?? levels?.at(-1) ?? null;
  },

  async copy(pictureId, longEdge) {
    const picture = opened.get(pictureId);
    if (!picture) return null;
    const level = picture.levels.findIndex(({ width, height }) => Math.max(width, height) <= longEdge);
    return picture.shown(level < 0 ? picture.levels.length - 1 : level);
  },

  async source(pictureId) {
    const picture = opened.get(pictureId);
    return picture ? { raster: picture.levels[0] as Raster, metadata: picture.info.metadata } : null;
  },
};

expose(work);

async function openPicture(...[pictureId, name, file, space, already]: Parameters<StageWork['open']>): Promise<string | null> {
  const known = opened.get(pictureId);
  if (known) {
    opened.delete(pictureId);
    opened.set(pictureId, known);
    return null;
  }
  const { info, raster: original } =
    already ??
    (await withBytes(file, async (bytes) => {
      const read = await readPictureInfo(bytes, name);
      return { info: read, raster: await readShared(bytes, name, read) };
    }));
  const levels = levelsOf(original, 2 * SMALLEST_PROXY);
  const { lattice, trouble } = await coloursOf(info, original, space);
  const converted: Raster[] = [];
  const shown = (level: number): Raster => {
    const raster = levels[level] as Raster;
    if (level === 0 && raster.width * raster.height > LARGEST_SHOWN) return raster;
    return (converted[level] ??= forScreen(lattice ? throughLattice(raster, lattice) : raster));
  };
  let curve: Uint8Array | null = null;
  opened.set(pictureId, {
    info,
    levels,
    lattice,
    space: lattice ? space : 'srgb',
    shown,
    bytes: levels.reduce((sum, { data }) => sum + data.byteLength, 0) * (shown(levels.length - 1) === levels.at(-1) ? 1 : 2),
    curve: () => (curve ??= workLightCurve(shown(levels.length - 1))),
  });
  let kept = 0;
  for (const [id, picture] of [...opened].reverse()) {
    kept += picture.bytes;
    if (id !== pictureId && kept > KEPT_BYTES) opened.delete(id);
  }
  return trouble;
}

function requireOpen(pictureId: string): OpenPicture {
  const picture = opened.get(pictureId);
  if (!picture) throw new Error('The picture is not open.');
  return picture;
}

/** The way of a picture's colours to the screen; a profile that cannot be read is said, and sRGB assumed. */
async function coloursOf(
  { metadata: { icc } }: PictureInfo,
  { channels }: Raster,
  space: ColourSpace,
): Promise<{ readonly lattice: Lattice | null; readonly trouble: string | null }> {
  try {
    return { lattice: await latticeOf(icc, channels, space), trouble: null };
  } catch (error) {
    if (!(error instanceof PictureFileError)) throw error;
    return { lattice: null, trouble: error.message };
  }
}

function draw(
  { info, levels, lattice, space, shown, curve }: OpenPicture,
  { correction, view, density, sharp, workLight, into }: PreviewRequest,
): PreviewPixels {
  const warp = warpFor(correction, info);
  const width = Math.max(1, Math.round(view.stage.width * density));
  const height = Math.max(1, Math.round(view.stage.height * density));
  // the proxy whose pixels are about as large as the view's
  const wanted = sharp ? 1 : 1 / (view.scale * density);
  let level = 0;
  while (!sharp && level + 1 < levels.length && 2 ** (level + 1) <= wanted * 1.2) level += 1;
  const source = shown(level);
  const [sx, sy] = [source.width / info.width, source.height / info.height];
  const origin = screenToPlane(view, [0, 0]);
  const far = screenToPlane(view, [view.stage.width, view.stage.height]);
  const [stepX, stepY] = [(far[0] - origin[0]) / width, (far[1] - origin[1]) / height];
  const through =
    (plane: PlaneWarp, left = 0, top = 0): PositionMap =>
    (x, y, out) => {
      if (!plane.planeToPicture(origin[0] + (x + left) * stepX, origin[1] + (y + top) * stepY, out)) return false;
      out[0] = (out[0] as number) * sx;
      out[1] = (out[1] as number) * sy;
      return true;
    };
  // on a proxy the colours lie less than a pixel apart
  const apart = level === 0 && (levels[level] as Raster).channels >= 3 ? apartIn(correction, [sx, sy]) : null;
  const drawnThrough = (map: PositionMap, size: Size, memory?: ArrayBuffer | null): Uint8ClampedArray<ArrayBuffer> =>
    previewPixels(source, map, size, sharp && view.scale > 3, memory, apart);
  const drawn = drawnThrough(through(warp.shimmed?.without ?? warp), { width, height }, into);
  // what shims move is drawn by itself: it bends too much for the tiles of all the rest
  const boxes = (warp.shimmed?.shims ?? []).map(({ box }) =>
    boundsOf(rectCorners(box).map(([x, y]): Point => [(x - origin[0]) / stepX, (y - origin[1]) / stepY])),
  );
  for (const { left, top, right, bottom } of shimParts(boxes, width, 0, height)) {
    const columns = right - left;
    const part = drawnThrough(through(warp, left, top), { width: columns, height: bottom - top });
    for (let row = top; row < bottom; row += 1)
      drawn.set(part.subarray((row - top) * columns * 4, (row - top + 1) * columns * 4), (row * width + left) * 4);
  }
  const native = lattice !== null && source === levels[level];
  const data = native ? new Uint8ClampedArray(throughLattice({ width, height, channels: 4, data: drawn }, lattice).data) : drawn;
  if (workLight) applyWorkLight(data, curve());
  return { width, height, data, space };
}

/** The warp of a correction; a stance that cannot be shown, or shows nothing, draws the original instead. */
function warpFor(correction: PreviewRequest['correction'], info: PictureInfo): PlaneWarp {
  try {
    const warp = planeWarp(correction, info);
    // an outline takes its time: where the middle is seen something is
    if (toPlane(warp, [info.width / 2, info.height / 2]) || warp.outline.length > 2) return warp;
  } catch {
    // said by the page
  }
  return planeWarp(originalOf(correction), info);
}
