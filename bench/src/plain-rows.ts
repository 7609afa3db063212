import {
  composeWarp,
  halveRaster,
  parseCorrection,
  previewPixels,
  resampleRows,
  resampleRowsFast,
  type Correction,
  type PositionMap,
} from '@able-plumb/core';
import { bandBy, somePicture, typicalCorrection } from './kernel-rows';
import { inTurns, ratio, timed, type Rows } from './timing';

const SIZE = { width: 6000, height: 4000 };

/** The kernel against the plain version; what a lens costs; what the stage asks for. */
export async function plainRows(rows: Rows): Promise<void> {
  const source = somePicture(SIZE, 8);
  const correction = typicalCorrection(SIZE);
  const warp = composeWarp(correction, SIZE);
  for (const filter of ['bilinear', 'bicubic', 'lanczos3'] as const) {
    const { kernel, plain } = await inTurns(
      { kernel: bandBy(resampleRowsFast, source, warp, filter, 256), plain: bandBy(resampleRows, source, warp, filter, 256) },
      5,
    );
    rows[`plain version against the kernel, ${filter}, ratio`] = ratio(plain, kernel);
  }
  // in the middle, each with its own pixels
  const whole = (of: Correction): (() => number) => {
    const own = composeWarp(of, SIZE);
    const band = bandBy(resampleRowsFast, source, own, 'lanczos3', 256);
    return () => band() * own.outputSize.width * own.outputSize.height;
  };
  const { lens, bare } = await inTurns({
    lens: whole(correction),
    bare: whole(parseCorrection({ ...correction, lens: { on: false } })),
  });
  rows['drawing the file with the lens against without it, lanczos3, ratio'] = ratio(lens, bare);
  // as the stage does: from the proxy whose pixels are about as large as the view's
  const proxy = halveRaster(halveRaster(halveRaster(source)));
  const viewMap: PositionMap = (x, y, out) => {
    if (!warp.outputToPicture(x * 8, y * 6, out)) return false;
    out[0] = (out[0] as number) / 8;
    out[1] = (out[1] as number) / 8;
    return true;
  };
  rows['draft of one stage (772 x 704) from its proxy, ms'] = timed(() => void previewPixels(proxy, viewMap, { width: 772, height: 704 }));
  rows['composing one warp with its trim, with a lens, ms'] = timed(() => void composeWarp({ ...correction }, SIZE));
  const none = parseCorrection({ ...correction, lens: { on: false } });
  rows['composing one warp with its trim, without one, ms'] = timed(() => void composeWarp({ ...none }, SIZE));
}
