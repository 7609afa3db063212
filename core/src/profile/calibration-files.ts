import type * as Yaml from 'yaml';
import { FRAME_DIAGONAL_MM } from '../correction/new-correction';
import { lensOf } from '../lens/lens-of';
import { PlumbError } from '../picture/failure';
import { diagonal } from '../picture/point';
import type { LensModel } from '../correction/schema';
import { lensProfileSchema, type LensProfile, type ProfileRow } from './schema';

/** A lens file that is not understood; nothing of it was kept. */
export class LensFileError extends PlumbError {
  constructor(message: string) {
    super('lens-file-refused', message, 'Nothing was kept of it; the profiles you have are untouched.');
    this.name = 'LensFileError';
  }
}

/** The package for YAML is fetched by those who read or write some: most lens files are our own. */
const yaml = (): Promise<typeof Yaml> => import('yaml');

/** Pixel centres lie at whole numbers in those files and at .5 here. */
const PIXEL_CENTRE = 0.5;

type Tree = Readonly<Record<string, unknown>>;
const isTree = (value: unknown): value is Tree => typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * Reads a lens profile of our own (JSON), an OpenCV `FileStorage` calibration (YAML or JSON), or a robotics `camera_info` YAML.
 *
 * @param id given to a profile whose file carries none
 * @throws LensFileError saying what is not understood; nothing half-read is returned
 */
export async function readLensFile(text: string, fileName: string, id: string): Promise<LensProfile> {
  const tree = await treeOf(text, fileName);
  if (tree['format'] !== undefined) return readOwn(tree, fileName);
  if (tree['camera_matrix'] === undefined)
    throw new LensFileError(`${fileName} is no lens file: it has neither "format" nor "camera_matrix".`);
  const model = calibrationModel(tree, fileName);
  const frame = { width: sideOf(tree, 'image_width', fileName), height: sideOf(tree, 'image_height', fileName) };
  const told = tree['camera_name'];
  const name = typeof told === 'string' && told.trim() !== '' ? told.trim() : fileName.replace(/\.[^.]+$/, '');
  const focal35 = (Math.sqrt(model.fx * model.fy) * FRAME_DIAGONAL_MM) / diagonal(frame);
  const row = { focalMm: null, focal35, model, madeFrom: `the calibration file ${fileName}` };
  return checked({ format: 'able-plumb/lens-profile', version: 1, id, name, frame, rows: [row] }, fileName);
}

async function treeOf(text: string, fileName: string): Promise<Tree> {
  const body = text.replace(/^\uFEFF/, '');
  let value: unknown;
  if (/^\s*\{/.test(body)) {
    try {
      value = JSON.parse(body);
    } catch (error) {
      throw new LensFileError(`${fileName} is not JSON: ${(error as Error).message}.`);
    }
  } else {
    // OpenCV writes the directive without a space, which YAML does not know
    const { parseDocument } = await yaml();
    const document = parseDocument(body.replace(/^%YAML:[^\n]*\n/, ''), { logLevel: 'silent' });
    if (document.errors.length > 0) throw new LensFileError(`${fileName} is not YAML: ${document.errors[0]?.message.split('\n')[0]}.`);
    value = document.toJS({ maxAliasCount: 10 });
  }
  if (!isTree(value)) throw new LensFileError(`${fileName} is no lens file: an object was expected.`);
  return value;
}

function readOwn(tree: Tree, fileName: string): LensProfile {
  if (tree['format'] !== 'able-plumb/lens-profile')
    throw new LensFileError(`${fileName} is no lens profile: its format is ${JSON.stringify(tree['format'])}.`);
  const { version } = tree;
  if (typeof version !== 'number' || version < 1) throw new LensFileError(`${fileName} has no version that could be read.`);
  if (version > 1) throw new LensFileError(`${fileName} has version ${version}; this Able Plumb reads up to version 1.`);
  return checked(tree, fileName);
}

/** The profile by its schema, and every row by its lens, which must not fold inside the frame. */
function checked(document: unknown, fileName: string): LensProfile {
  const result = lensProfileSchema.safeParse(document);
  if (!result.success) {
    const issue = result.error.issues[0];
    const path = (issue?.path ?? []).join('.');
    throw new LensFileError(`${fileName} has an impossible value at ${path || 'its root'}: ${issue?.message ?? 'unknown'}.`);
  }
  for (const row of result.data.rows) {
    try {
      lensOf(row.model, result.data.frame);
    } catch (error) {
      throw new LensFileError(`${fileName} cannot be used: ${(error as Error).message}`);
    }
  }
  return result.data;
}

function sideOf(tree: Tree, key: string, fileName: string): number {
  const value = tree[key];
  if (typeof value !== 'number' || !Number.isInteger(value) || value < 1)
    throw new LensFileError(`${fileName} does not say the pictures' size: ${key} is missing.`);
  return value;
}

function matrixOf(tree: Tree, key: string, fileName: string): readonly number[] {
  const node = tree[key];
  const data = isTree(node) ? node['data'] : node;
  const flat = Array.isArray(data) ? (data as unknown[]).flat() : null;
  if (!flat?.every((v) => typeof v === 'number' && Number.isFinite(v)))
    throw new LensFileError(`${fileName}: ${key} is not a matrix of numbers.`);
  return flat as number[];
}

function calibrationModel(tree: Tree, fileName: string): Extract<LensModel, { kind: 'brown-conrady' | 'fisheye' }> {
  const k = matrixOf(tree, 'camera_matrix', fileName);
  if (k.length !== 9) throw new LensFileError(`${fileName}: camera_matrix has ${k.length} numbers, 9 were expected.`);
  const [fx, skew, cx, , fy, cy] = k as [number, number, number, number, number, number];
  if (Math.abs(skew) > 1e-6 * fx)
    throw new LensFileError(`${fileName}: pixels that are not square-angled (skew ${skew}) are not supported.`);
  const place = { fx, fy, cx: cx + PIXEL_CENTRE, cy: cy + PIXEL_CENTRE };
  const d = matrixOf(tree, tree['distortion_coefficients'] === undefined ? 'dist_coeffs' : 'distortion_coefficients', fileName);
  const named = tree['distortion_model'];
  const fisheye = named === 'equidistant' || named === 'fisheye' || Boolean(tree['fisheye_model']);
  const at = (i: number): number => d[i] ?? 0;
  if (fisheye) {
    if (d.length !== 4) throw new LensFileError(`${fileName}: a fisheye has 4 distortion coefficients, not ${d.length}.`);
    return { kind: 'fisheye', ...place, k1: at(0), k2: at(1), k3: at(2), k4: at(3) };
  }
  const known = named === undefined || named === 'plumb_bob';
  // rational and thin-prism models carry more coefficients; all zero they are the plain one
  if (!known || d.slice(5).some((v) => v !== 0) || d.length < 4) {
    const what = typeof named === 'string' ? `the distortion model "${named}"` : `${d.length} distortion coefficients`;
    throw new LensFileError(
      `${fileName}: ${what} is not supported; plumb_bob (4 or 5 coefficients) and equidistant (4) are. Calibrate with one of those.`,
    );
  }
  return { kind: 'brown-conrady', ...place, k1: at(0), k2: at(1), p1: at(2), p2: at(3), k3: at(4) };
}

/** A profile as a file of our own. */
export const writeProfile = (profile: LensProfile): string => `${JSON.stringify(profile, null, 2)}\n`;

/** The forms a profile's row can be written in for other programs. */
export type CalibrationForm = 'opencv-yaml' | 'opencv-json' | 'camera-info';

/**
 * One row of a profile for other programs.
 * @throws LensFileError for models that those programs do not have
 */
export async function writeCalibration(profile: LensProfile, row: ProfileRow, form: CalibrationForm): Promise<string> {
  const { model } = row;
  if (model.kind !== 'brown-conrady' && model.kind !== 'fisheye')
    throw new LensFileError(
      `${profile.name}: a ${model.kind} model has no place in such a file; only measured models (Brown-Conrady, fisheye) have.`,
    );
  const { width, height } = profile.frame;
  const { fx, fy } = model;
  const matrix = [fx, 0, model.cx - PIXEL_CENTRE, 0, fy, model.cy - PIXEL_CENTRE, 0, 0, 1];
  const fisheye = model.kind === 'fisheye';
  const d = fisheye ? [model.k1, model.k2, model.k3, model.k4] : [model.k1, model.k2, model.p1, model.p2, model.k3];
  if (form === 'camera-info') {
    const rows = (r: number, c: number, data: readonly number[]): unknown => ({ rows: r, cols: c, data });
    const { stringify } = await yaml();
    return stringify({
      image_width: width,
      image_height: height,
      camera_name: profile.name,
      camera_matrix: rows(3, 3, matrix),
      distortion_model: fisheye ? 'equidistant' : 'plumb_bob',
      distortion_coefficients: rows(1, d.length, d),
      rectification_matrix: rows(3, 3, [1, 0, 0, 0, 1, 0, 0, 0, 1]),
      projection_matrix: rows(3, 4, [fx, 0, matrix[2] as number, 0, 0, fy, matrix[5] as number, 0, 0, 0, 1, 0]),
    });
  }
  const plain = { image_width: width, image_height: height, ...(fisheye ? { fisheye_model: 1 } : {}) };
  if (form === 'opencv-json') {
    const node = (r: number, c: number, data: readonly number[]): unknown => ({
      type_id: 'opencv-matrix',
      rows: r,
      cols: c,
      dt: 'd',
      data,
    });
    return `${JSON.stringify({ ...plain, camera_matrix: node(3, 3, matrix), distortion_coefficients: node(d.length, 1, d) }, null, 2)}\n`;
  }
  const node = (key: string, r: number, c: number, data: readonly number[]): string =>
    `${key}: !!opencv-matrix\n   rows: ${r}\n   cols: ${c}\n   dt: d\n   data: [ ${data.map(opencvNumber).join(', ')} ]\n`;
  const head = Object.entries(plain)
    .map(([key, value]) => `${key}: ${value}\n`)
    .join('');
  return `%YAML:1.0\n---\n${head}${node('camera_matrix', 3, 3, matrix)}${node('distortion_coefficients', d.length, 1, d)}`;
}

/** OpenCV tells real numbers from whole ones by their point. */
const opencvNumber = (v: number): string => (Number.isInteger(v) ? `${v}.` : String(v));
