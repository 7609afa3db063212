import * as z from 'zod';
import {
  deliverySchema,
  parseCorrection,
  lensProfileSchema,
  keptMetadataSchema,
  type Correction,
  type LensProfile,
} from '@able-plumb/core';
import type { History, Job, Picture, Settings } from '../state/model';

/** A correction with its history as it lies on the shelf. Older records have no version. */
export type StoredHistory = Pick<History, 'past' | 'present' | 'future' | 'version'>;

/** The newest document of a picture, while its history is on its way. */
export type StoredPresent = Pick<History, 'present' | 'version'>;

const jobSchema: z.ZodType<Job> = z.object({
  id: z.string().min(1),
  name: z.string(),
  createdAt: z.number(),
  changedAt: z.number(),
  pictureIds: z.array(z.string()),
  lastPictureId: z.string().nullable(),
  finds: z.boolean().optional(),
});

const size = z.number().int().min(1);
const pictureSchema = z.object({
  id: z.string().min(1),
  jobId: z.string().min(1),
  name: z.string(),
  width: size,
  height: size,
  bytes: z.number(),
  sha256: z.string(),
  format: z.enum(['jpeg', 'png', 'tiff', 'webp', 'avif', 'jxl']),
  bits: z.union([z.literal(8), z.literal(16)]),
  camera: z.string().nullable(),
  lens: z.string().nullable(),
  focal35: z.number().nullable(),
  focalMm: z.number().nullable().optional(),
  orientation: z.number().optional(),
  croppedFrom: z.object({ width: size, height: size }).nullable().optional(),
  level: z.object({ roll: z.number().nullable(), tilt: z.number().nullable() }).nullable().optional(),
  takenAt: z.string().nullable(),
  ppi: z.number().positive().nullable().optional(),
  original: z.string().min(1).optional(),
  set: z.string().optional(),
}) as z.ZodType<Picture>;

/** Settings, each by itself: one that cannot be read is left out, and its default holds. */
const settingSchemas: { readonly [K in keyof Settings]: z.ZodType } = {
  theme: z.enum(['light', 'dim']),
  stageGrey: z.number(),
  magnet: z.boolean(),
  ownProportions: z.array(z.object({ name: z.string(), ratio: z.number().positive() })),
  exportChoice: z
    .object({
      kind: z.enum(['jpeg', 'png', 'tiff', 'webp', 'avif', 'jxl']),
      quality: z.number(),
      chroma: z.enum(['4:4:4', '4:2:0']),
      smallest: z.boolean(),
      bits: z.union([z.literal(8), z.literal(16), z.literal('as-taken')]),
      compression: z.enum(['none', 'deflate']),
      lossless: z.boolean(),
      kept: keptMetadataSchema,
      mostKb: z.number().nullable(),
      pattern: z.string(),
    })
    .partial(),
  exportTo: z.enum(['zip', 'folder']),
  deliveries: z.array(deliverySchema),
  standingDeliveries: z.array(z.string()),
  settingOut: z.object({ name: z.string(), parts: z.number(), attitude: z.number(), peg: z.boolean() }),
  shade: z.number(),
  sideWidth: z.number().min(200).max(800),
  sidePut: z.boolean(),
  readings: z.enum(['open', 'folded', 'room']),
  ownKeys: z.record(z.string(), z.string()),
};

/** Records that hold; how many do not. */
export interface Readable<T> {
  readonly records: readonly T[];
  readonly damaged: number;
}

function readable<T>(schema: z.ZodType<T>, raw: readonly unknown[]): Readable<T> {
  const records = raw.flatMap((record) => {
    const read = schema.safeParse(record);
    return read.success ? [read.data] : [];
  });
  return { records, damaged: raw.length - records.length };
}

export const readJobs = (raw: readonly unknown[]): Readable<Job> => readable(jobSchema, raw);
export const readPictures = (raw: readonly unknown[]): Readable<Picture> => readable(pictureSchema, raw);
export const readProfiles = (raw: readonly unknown[]): Readable<LensProfile> => readable(lensProfileSchema, raw);

export function readSettings(raw: unknown): Partial<Settings> {
  const fields = typeof raw === 'object' && raw !== null ? raw : {};
  return Object.fromEntries(
    Object.entries(settingSchemas).flatMap(([name, schema]) => {
      const read = schema.safeParse((fields as Record<string, unknown>)[name]);
      return read.success ? [[name, read.data]] : [];
    }),
  ) as Partial<Settings>;
}

const steps = (raw: unknown): readonly Correction[] =>
  Array.isArray(raw)
    ? raw.flatMap((step: unknown) => {
        const read = correctionOf(step);
        return read ? [read] : [];
      })
    : [];

function correctionOf(raw: unknown): Correction | null {
  try {
    return parseCorrection(raw);
  } catch {
    return null;
  }
}

/**
 * A history from its record: documents are checked, and brought to the present version, as those from files are. Steps that cannot be read
 * are left out; where the document itself cannot, the last step before it that can be read stands for it.
 *
 * @param newest the newest document as it was written for itself: where it is newer, its history did not come to be written, and what that has
 *   is the step before
 * @returns null where nothing can be read; `whole` is false where something was left out
 */
export function readHistory(raw: unknown, newest: unknown): { readonly history: StoredHistory; readonly whole: boolean } | null {
  const read = readWhole(raw);
  const now = newest as Partial<StoredPresent> | undefined;
  const document = correctionOf(now?.present);
  if (!document || typeof now?.version !== 'number' || now.version <= (read?.history.version ?? -1)) return read;
  const past = read ? [...read.history.past, read.history.present] : [];
  return { history: { past, present: document, future: [], version: now.version }, whole: read?.whole ?? false };
}

function readWhole(raw: unknown): { readonly history: StoredHistory; readonly whole: boolean } | null {
  if (typeof raw !== 'object' || raw === null) return null;
  const record = raw as Record<string, unknown>;
  const [past, future] = [steps(record['past']), steps(record['future'])];
  const own = correctionOf(record['present']);
  const present = own ?? past.at(-1);
  if (!present) return null;
  const known = Array.isArray(record['past']) && Array.isArray(record['future']) ? record['past'].length + record['future'].length : -1;
  const version = typeof record['version'] === 'number' ? record['version'] : 0;
  return {
    history: { past: own ? past : past.slice(0, -1), present, future, version },
    whole: own !== null && known === past.length + future.length,
  };
}
