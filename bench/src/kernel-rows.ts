import type { resampleRows } from '@able-plumb/core';
import {
  apartIn,
  composeWarp,
  newCorrection,
  parseCorrection,
  resampleRowsFast,
  type Correction,
  type FilterName,
  type Raster,
  type Size,
  type Warp,
} from '@able-plumb/core';
import type { Peer, PeerFilter } from './peer';
import { inTurns, median, ratio, type Rows } from './timing';
import { SIZE, typicalInTwoSteps } from './two-steps';

const ROWS = 1024;
/** Rows a call, as export takes them. */
const BAND = 256;

/** Two degrees of roll, twelve of tilt, a barrel lens. */
export function typicalCorrection(size: Size): Correction {
  const opened = newCorrection({ name: 'bench', ...size, focal35: 24 });
  return parseCorrection({
    ...opened,
    stance: { ...opened.stance, adjust: { roll: 2, tilt: 12, swing: 0 } },
    lens: { on: true, model: { kind: 'radial', cx: size.width / 2, cy: size.height / 2, k1: -0.05, k2: 0.01 } },
  });
}

/** RGB, or RGBA, of 8 or 16 bits, with something in it. */
export function somePicture(size: Size, bits: 8 | 16, channels: 3 | 4 = 3): Raster {
  const length = size.width * size.height * channels;
  const data = bits === 16 ? new Uint16Array(length) : new Uint8Array(length);
  for (let i = 0; i < length; i += 1) data[i] = bits === 16 ? ((i * 31 + (i >> 9)) & 255) * 257 + (i & 255) : (i * 31 + (i >> 9)) & 255;
  return { ...size, channels, data };
}

/** Draws a band of the middle of the output; ns a pixel. */
export function bandBy(
  resample: typeof resampleRows,
  source: Raster,
  warp: Warp,
  filter: FilterName,
  rows = ROWS,
  kind: Partial<Parameters<typeof resampleRows>[0]> = {},
): () => number {
  const width = warp.outputSize.width;
  const first = Math.floor((warp.outputSize.height - rows) / 2);
  const samples = width * BAND * (kind.outChannels ?? 3);
  const into = source.data instanceof Uint16Array ? new Uint16Array(samples) : new Uint8Array(samples);
  return () => {
    const started = performance.now();
    for (let y = first; y < first + rows; y += BAND)
      resample({
        source,
        map: warp.outputToPicture,
        filter,
        width,
        background: 'transparent',
        outChannels: 3,
        into,
        fromRow: y,
        toRow: y + BAND,
        ...kind,
      });
    return ((performance.now() - started) * 1e6) / (width * rows);
  };
}

const PEERS: Readonly<Partial<Record<FilterName, PeerFilter>>> = {
  bilinear: 'linear',
  bicubic: 'cubic',
  mitchell: 'cubic',
  lanczos3: 'lanczos4',
};

/** Turns of contenders that take seconds. */
const FEW_TURNS = 3;

/** One thread: the kernel, a plain copy of as many bytes and OpenCV in turns, a band of the middle. */
export async function kernelRows(rows: Rows, peer: Peer | null): Promise<void> {
  for (const [name, width, height, bits, filters] of [
    ['24 megapixels', 6000, 4000, 8, ['bilinear', 'bicubic', 'mitchell', 'lanczos3']],
    ['6 megapixels', 3000, 2000, 8, ['bilinear', 'bicubic', 'lanczos3']],
    ['100 megapixels', 12240, 8160, 8, ['bilinear', 'bicubic', 'lanczos3']],
    ['24 megapixels, 16 bit', 6000, 4000, 16, ['bicubic', 'lanczos3']],
  ] as const) {
    const source = somePicture({ width, height }, bits);
    const warp = composeWarp(typicalCorrection(source), source);
    const first = Math.floor((warp.outputSize.height - ROWS) / 2);
    await peer?.source(source);
    await peer?.positions(warp.outputToPicture, warp.outputSize.width, first, ROWS);
    const bytes = source.data.slice(0, warp.outputSize.width * ROWS * 3);
    for (const filter of filters) {
      const way = PEERS[filter];
      const times = await inTurns<'kernel' | 'copy' | 'peer'>({
        kernel: bandBy(resampleRowsFast, source, warp, filter),
        copy: () => {
          const started = performance.now();
          bytes.slice();
          return ((performance.now() - started) * 1e6) / (warp.outputSize.width * ROWS);
        },
        peer: () => (peer && way ? peer.remap(way, 1) : NaN),
      });
      const { kernel, copy } = times;
      rows[`${name}, ${filter}: kernel, ns a pixel`] = median(kernel);
      if (peer) rows[`${name}, ${filter}: kernel against OpenCV remap ${way}, ratio`] = ratio(kernel, times.peer);
      if (filter === 'bilinear') rows[`${name}: plain copy of the same bytes, ns a pixel`] = median(copy);
    }
  }
  await kindRows(rows);
  if (peer) await twoStepRows(rows, peer);
}

/** One thread: what is drawn in another way than colour as stored at its own size, against that. */
async function kindRows(rows: Rows): Promise<void> {
  const colour = somePicture(SIZE, 8);
  const grey: Raster = { ...SIZE, channels: 1, data: colour.data.slice(0, SIZE.width * SIZE.height) };
  const clear = somePicture(SIZE, 8, 4);
  const correction = typicalCorrection(SIZE);
  const warp = composeWarp(correction, SIZE);
  const { lens, output } = correction;
  const apart = apartIn({ ...correction, lens: { ...lens, lateral: { red: 1.0006, blue: 0.9996 } } }, [1, 1]);
  const half = composeWarp({ ...correction, output: { ...output, size: { kind: 'long-edge', px: SIZE.width / 2 } } }, SIZE);
  const asDraft = { draft: true, outChannels: 4, background: 'transparent' } as const;
  const { plain, draft, apartDraft, ofGrey, ofApart, inLight, ofHalf, withAlpha } = await inTurns({
    plain: bandBy(resampleRowsFast, colour, warp, 'lanczos3'),
    draft: bandBy(resampleRowsFast, colour, warp, 'bilinear', ROWS, asDraft),
    apartDraft: bandBy(resampleRowsFast, colour, warp, 'bilinear', ROWS, { ...asDraft, apart }),
    ofGrey: bandBy(resampleRowsFast, grey, warp, 'lanczos3', ROWS, { outChannels: 1 }),
    ofApart: bandBy(resampleRowsFast, colour, warp, 'lanczos3', ROWS, { apart }),
    inLight: bandBy(resampleRowsFast, colour, warp, 'lanczos3', ROWS, { light: 'linear' }),
    ofHalf: bandBy(resampleRowsFast, colour, half, 'lanczos3'),
    withAlpha: bandBy(resampleRowsFast, clear, warp, 'lanczos3', ROWS, { outChannels: 4 }),
  });
  rows['24 megapixels, a draft: colours that lie apart against others, ratio'] = ratio(apartDraft, draft);
  rows['24 megapixels, lanczos3: colours that lie apart against others, ratio'] = ratio(ofApart, plain);
  rows['24 megapixels, lanczos3: grey against colour, ratio'] = ratio(ofGrey, plain);
  rows['24 megapixels, lanczos3: in linear light against as stored, ratio'] = ratio(inLight, plain);
  rows['24 megapixels, lanczos3: with alpha against without, ratio'] = ratio(withAlpha, plain);
  rows['24 megapixels, lanczos3: a result of half the size, whole, against one of the whole size, ratio'] = ratio(ofHalf, plain) / 4;
}

/** One thread, the whole picture: the kernel, once, against lens and then perspective. */
async function twoStepRows(rows: Rows, peer: Peer): Promise<void> {
  const { warp, task } = typicalInTwoSteps();
  const source = somePicture(SIZE, 8);
  await peer.source(source);
  await peer.steps(task);
  for (const filter of ['bicubic', 'lanczos3'] as const) {
    const way = PEERS[filter] as PeerFilter;
    const rowsDrawn = warp.outputSize.height - (warp.outputSize.height % BAND);
    const { kernel, steps } = await inTurns<'kernel' | 'steps'>(
      { kernel: bandBy(resampleRowsFast, source, warp, filter, rowsDrawn), steps: () => peer.twoSteps(way, 1) },
      FEW_TURNS,
      1,
    );
    rows[`24 megapixels, ${filter}, the whole picture: kernel against OpenCV, lens then perspective (${way}), ratio`] = ratio(
      kernel,
      steps,
    );
  }
}
