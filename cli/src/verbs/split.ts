import { existsSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { extname, join } from 'node:path';
import {
  findPieces,
  freeName,
  pieceCorrection,
  pieceName,
  pieceRollDeg,
  PIECE_NAME_WORDS,
  PlumbError,
  safeName,
  sheetOf,
  sheetWith,
  stemOf,
  type Piece,
  type Sheet,
} from '@able-plumb/core';
import { readPixels } from '@able-plumb/codecs';
import { EXPORT_FLAGS, EXPORT_FORM, EXPORT_VALUES, exportOptions, exportPicture, formatFor } from '../export-picture';
import { isSameFile, readPictureFile } from '../files';
import { noteBegun } from '../partial-files';
import { parseArguments, requirePositions, textOption, UsageError, wholeOption } from '../usage';

const FORM = `split SHEET [--out DIR] [--type jpg|png|tif|webp] [--names PATTERN] [--inset 0.5mm] [--inside-border] [--scanned | --photographed] [--threads N] ${EXPORT_FORM}`;

/** `split SHEET [--out DIR]`: the prints on a scan as files of their own, each in one resampling of the scan; only found without a folder. */
export async function split(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(
    args,
    ['out', 'type', 'names', 'inset', 'threads', ...EXPORT_VALUES],
    ['inside-border', 'scanned', 'photographed', ...EXPORT_FLAGS],
  );
  const [path] = requirePositions(parsed, 1, FORM) as readonly [string];
  const options = exportOptions(parsed);
  const pattern = patternOption(textOption(parsed, 'names'));
  const ending = textOption(parsed, 'type') ?? extname(path).slice(1);
  const folder = textOption(parsed, 'out');
  if (folder !== undefined) formatFor(ending, options, 8);
  const { bytes, info, name } = await readPictureFile(path);
  const { width, height, ppi } = info;
  // a camera's picture of a sheet says what its lens was
  const photographed = parsed.options.has('photographed') || (!parsed.options.has('scanned') && info.focal35 !== null);
  const sheet = sheetWith({
    taken: photographed ? 'photographed' : 'scanned',
    border: parsed.options.has('inside-border') ? 'inside' : 'with',
    inset: insetOption(textOption(parsed, 'inset')),
    pattern,
    ...(ppi === null || photographed ? {} : { ppi }),
  });
  const source = await readPixels(bytes, name, info);
  const found = findPieces(source, sheet.ppi ?? null, photographed);
  const picture = { name, width, height };
  const pieces = found.pieces.map(({ corners, inner, how, sdDeg }, i) => {
    const piece: Piece = { id: `s${i + 1}`, corners, ...(inner ? { inner } : {}), quarterTurns: 0, how };
    const stem = safeName(pieceName(sheet.pattern, stemOf(name), i + 1)) || `piece-${i + 1}`;
    return {
      piece,
      sdDeg,
      stem,
      correction: { ...pieceCorrection(picture, piece, sheet), picture: { ...picture, name: `${stem}.${ending}` } },
    };
  });
  const rows: Record<string, unknown>[] = pieces.map(({ piece, sdDeg, correction }) => ({
    corners: piece.corners,
    ...(piece.inner ? { inner: piece.inner } : {}),
    angle: pieceRollDeg(piece.corners),
    sdDeg,
    how: piece.how,
    correction,
  }));
  if (folder === undefined) return { sheet: path, silent: found.silent, pieces: rows };
  await mkdir(folder, { recursive: true }).catch((error: unknown) => {
    throw new PlumbError('cannot-write', `${folder} cannot be a folder: ${(error as Error).message}.`);
  });
  const taken = new Set<string>();
  const files = pieces.map(({ stem }) => join(folder, freeName(stem, ending, taken)));
  for (const file of files) {
    if (await isSameFile(path, file)) throw new PlumbError('overwrites-input', `${file} is the sheet; originals are never overwritten.`);
    if (existsSync(file) && !parsed.options.has('force'))
      throw new PlumbError('exists', `${file} exists already; nothing was written.`, 'Choose another folder, or add --force.');
  }
  const threads = wholeOption(parsed, 'threads', 1, 64) ?? Math.min(8, availableParallelism());
  for (const [i, { correction }] of pieces.entries()) {
    const file = files[i] as string;
    noteBegun(file);
    // the correction names the piece; the pixels are the sheet's
    const exported = await exportPicture({ ...correction, picture }, path, file, ending, options, {
      threads,
      fit: 'refuse',
      decoded: source,
    });
    Object.assign(rows[i] as object, { file: exported.file, width: exported.width, height: exported.height });
  }
  return { sheet: path, silent: found.silent, written: rows.length, pieces: rows };
}

function patternOption(text: string | undefined): string {
  if (text === undefined) return sheetOf(null).pattern;
  for (const [, word] of text.matchAll(/\{([^{}]*)\}/g))
    if (!(PIECE_NAME_WORDS as readonly string[]).includes(word as string))
      throw new UsageError(`--names knows ${PIECE_NAME_WORDS.map((w) => `{${w}}`).join(' and ')}, not {${word}}.`);
  return text;
}

function insetOption(text: string | undefined): Sheet['inset'] {
  const [, value, unit] = /^(\d+(?:\.\d+)?)(mm|px)?$/.exec(text ?? '0') ?? [];
  if (value === undefined) throw new UsageError(`--inset is a length such as 0.5mm or 6px, not "${text}".`);
  return { value: Number(value), unit: unit === 'px' ? 'px' : 'mm' };
}
