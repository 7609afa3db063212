/* Renders the demo job: traces the scenes, bends what a lens bends, writes JPEGs with metadata and the truth beside them. */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { lensOf, levelsOf, orientRaster, resampleRows, type Point, type Raster } from '@able-plumb/core';
import { encodeJpeg, readPictureInfo, readPixels, toBits, matrixProfile, SRGB } from '@able-plumb/codecs';
import { useNodeCodecs } from '@able-plumb/codecs/node';
import { exifBlockOf } from './exif-block-of';
import { composeHeap, heapTruth } from './heaps/compose-heap';
import { LOOSE_PRINTS, loosePrints } from './loose-prints';
import { SCENES, SHEET, type Scene } from './scenes';
import { focalPxOf, trace, tracedSize } from './trace';
import { lensModelOf, truthOf } from './truth';

const here = dirname(fileURLToPath(import.meta.url));
const buildDir = join(here, '../build');
const jobDir = join(here, '../job');
const LARGEST_FILE = 3.9e6;
/** Orientation value that undoes each: what the camera would have to store. */
const STORED_AS: Readonly<Record<number, number>> = { 1: 1, 6: 8, 8: 6 };

async function readTraced(name: string): Promise<Raster> {
  const bytes = readFileSync(join(buildDir, `${name}.png`));
  return readPixels(bytes, name, await readPictureInfo(bytes, name));
}

/** The traced field seen through the scene's lens. */
function throughLens(scene: Scene, traced: Raster): Raster {
  if (!scene.lens) return traced;
  const size = { width: scene.widthPx, height: scene.heightPx };
  const field = tracedSize(scene);
  const lens = lensOf(lensModelOf(scene), size);
  const data = resampleRows({
    source: traced,
    map: (x, y, out) => {
      if (!lens.undistort(x, y, out)) return false;
      out[0] = (out[0] as number) + (field.width - size.width) / 2;
      out[1] = (out[1] as number) + (field.height - size.height) / 2;
      return true;
    },
    filter: 'lanczos3',
    width: size.width,
    fromRow: 0,
    toRow: size.height,
    background: 'transparent',
    outChannels: traced.channels,
  });
  return { ...size, channels: traced.channels, data };
}

async function writeJpeg(name: string, upright: Raster, orientation: number, exif: Uint8Array): Promise<void> {
  const stored = orientRaster(toBits(upright, 8), STORED_AS[orientation] ?? 1);
  for (let quality = 93; ; quality -= 3) {
    const jpeg = await encodeJpeg(
      stored,
      { quality, chroma: '4:2:0', smallest: true },
      { exif, icc: matrixProfile('sRGB (Tarnbeck survey)', SRGB) },
    );
    if (jpeg.length > LARGEST_FILE) continue;
    writeFileSync(join(jobDir, `${name}.jpg`), jpeg);
    process.stderr.write(`${name}.jpg: ${stored.width} x ${stored.height}, quality ${quality}, ${(jpeg.length / 1e6).toFixed(2)} MB\n`);
    return;
  }
}

function sheetTruth(): unknown {
  const pxPerMm = SHEET.ppi / 25.4;
  return {
    picture: `${SHEET.name}.jpg`,
    width: SHEET.widthPx,
    height: SHEET.heightPx,
    flat: true,
    ppi: SHEET.ppi,
    prints: SHEET.prints.map((print) => {
      const [c, s] = [Math.cos((print.angleDeg * Math.PI) / 180), Math.sin((print.angleDeg * Math.PI) / 180)];
      const corner = (x: number, y: number): Point => [
        (print.centreMm[0] + c * x + s * y) * pxPerMm,
        (print.centreMm[1] - s * x + c * y) * pxPerMm,
      ];
      const [w, h] = [print.widthMm / 2, print.heightMm / 2];
      return { ...print, corners: [corner(-w, -h), corner(w, -h), corner(w, h), corner(-w, h)] };
    }),
  };
}

/** The sheet that is laid together from the job's finished pictures. */
async function writeLoosePrints(): Promise<void> {
  const shown = await Promise.all(
    LOOSE_PRINTS.shows.map(async (name) => {
      const bytes = readFileSync(join(jobDir, `${name}.jpg`));
      return levelsOf(await readPixels(bytes, name, await readPictureInfo(bytes, name)), 2000).at(-1) as Raster;
    }),
  );
  const heap = loosePrints(shown as [Raster, Raster, Raster, Raster]);
  const scan = composeHeap(heap);
  const { width, height } = scan;
  const { name, takenAt, shows } = LOOSE_PRINTS;
  await writeJpeg(name, scan, 1, exifBlockOf({ model: 'Garrow Flatbed A3', takenAt, orientation: 1, width, height, ppi: heap.ppi }));
  const prints = heapTruth(heap).map((truth, i) => ({ picture: shows[i], ...truth }));
  const all = { picture: `${name}.jpg`, width, height, flat: true, ppi: heap.ppi, prints };
  writeFileSync(join(jobDir, `${name}.truth.json`), `${JSON.stringify(all, null, 1)}\n`);
}

async function main(): Promise<void> {
  useNodeCodecs();
  const names = process.argv.slice(2);
  mkdirSync(jobDir, { recursive: true });
  const missing = [...SCENES.map((scene) => scene.name), SHEET.name].filter((name) => !existsSync(join(buildDir, `${name}.png`)));
  const toTrace = names.length > 0 ? names.filter((name) => name !== LOOSE_PRINTS.name) : missing;
  if (toTrace.length > 0) trace(buildDir, join(here, '../scenes'), toTrace);
  for (const scene of SCENES) {
    if (names.length > 0 && !names.includes(scene.name)) continue;
    const swaps = scene.orientation >= 5;
    const exif = exifBlockOf({
      model: 'Garrow Field 24',
      lens: scene.lensName,
      focalMm: scene.focal35,
      focal35: scene.focal35,
      takenAt: scene.takenAt,
      orientation: scene.orientation,
      width: swaps ? scene.heightPx : scene.widthPx,
      height: swaps ? scene.widthPx : scene.heightPx,
      ppi: 300,
    });
    await writeJpeg(scene.name, throughLens(scene, await readTraced(scene.name)), scene.orientation, exif);
    writeFileSync(join(jobDir, `${scene.name}.truth.json`), `${JSON.stringify(truthOf(scene), null, 1)}\n`);
  }
  if (names.length === 0 || names.includes(SHEET.name)) {
    const exif = exifBlockOf({
      model: 'Garrow Flatbed A3',
      takenAt: SHEET.takenAt,
      orientation: 1,
      width: SHEET.widthPx,
      height: SHEET.heightPx,
      ppi: SHEET.ppi,
    });
    await writeJpeg(SHEET.name, await readTraced(SHEET.name), 1, exif);
    writeFileSync(join(jobDir, `${SHEET.name}.truth.json`), `${JSON.stringify(sheetTruth(), null, 1)}\n`);
  }
  if (names.length === 0 || names.includes(LOOSE_PRINTS.name)) await writeLoosePrints();
  process.stderr.write(`focal length of the pump hall: ${focalPxOf(SCENES[1] as Scene).toFixed(2)} px\n`);
}

await main();
