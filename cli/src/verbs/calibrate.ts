import { basename } from 'node:path';
import { calibrateBoard, findBoard, lensFactsOf, PlumbError, profileFrom, type BoardSize, type BoardView } from '@able-plumb/core';
import { readPixels, type PictureInfo } from '@able-plumb/codecs';
import { readPictureFile } from '../files';
import { parseArguments, textOption, UsageError } from '../usage';

const FORM = 'calibrate PICTURE ... --board 9x6 [--name NAME]';

/** `calibrate PICTURE ... --board 9x6`: a lens profile from pictures of a checkerboard, and how well it fits each of them. */
export async function calibrate(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(args, ['board', 'name']);
  if (parsed.positions.length === 0) throw new UsageError(`Use: plumb ${FORM}`);
  const board = boardOf(textOption(parsed, 'board'));
  const views: BoardView[] = [];
  const without: string[] = [];
  let first: { readonly path: string; readonly info: PictureInfo } | null = null;
  let any: PictureInfo | null = null;
  for (const path of parsed.positions) {
    const { bytes, info, name } = await readPictureFile(path);
    any ??= info;
    const corners = findBoard(await readPixels(bytes, name, info), board);
    if (corners) {
      // a picture without a board says nothing, not even which size the others have
      first ??= { path, info };
      if (info.width !== first.info.width || info.height !== first.info.height)
        throw new PlumbError(
          'sizes-differ',
          `${path} has ${info.width} x ${info.height} px, ${first.path} ${first.info.width} x ${first.info.height}.`,
          'Calibrate from pictures of one camera, one lens and one focal length.',
        );
      views.push({ name: path, corners });
    } else {
      without.push(path);
      process.stderr.write(`${path}: no board of ${board.across} x ${board.down} inner corners is wholly in sight; left out.\n`);
    }
  }
  // without any board the calibration says so
  const info = ((first as { readonly info: PictureInfo } | null)?.info ?? any) as PictureInfo;
  const { model, focalSdPx, centreSdPx, errorPx, views: fits, reach } = calibrateBoard(views, board.across, info);
  const name = textOption(parsed, 'name') ?? info.lens ?? basename(parsed.positions[0] as string).replace(/\.[^.]+$/, '');
  const madeFrom = `${views.length} pictures of a checkerboard, ${errorPx.toFixed(2)} px root mean square`;
  const found = { model, focalPx: Math.sqrt(model.fx * model.fy), reach, madeFrom };
  const id =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'lens';
  return {
    profile: profileFrom(found, lensFactsOf(info), id, name),
    errorPx,
    focalSdPx,
    centreSdPx,
    pictures: fits.map((fit) => ({ file: fit.name, errorPx: fit.errorPx })),
    without,
  };
}

function boardOf(text: string | undefined): BoardSize {
  const match = /^(\d+)x(\d+)$/.exec(text ?? '');
  const [across, down] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || across < 3 || down < 3 || across > 60 || down > 60)
    throw new UsageError(`--board says how many inner corners the board has, across x down, such as 9x6. Use: plumb ${FORM}`);
  return { across, down };
}
