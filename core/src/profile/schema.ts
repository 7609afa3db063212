import * as z from 'zod';
import { lateralSchema, lensModelSchema } from '../correction/schema';

const positive = z.number().positive();

/** What one focal length of a lens does; positions in px of a picture of the profile's frame. */
export const profileRowSchema = z.object({
  /** Focal length as the metadata write it, mm; null where it is not known. */
  focalMm: positive.nullable().default(null),
  /** The 35 mm equivalent by the diagonal, mm; null where nothing says it. */
  focal35: positive.nullable().default(null),
  model: lensModelSchema.refine((model) => model.kind !== 'none', 'A row needs a model that bends.'),
  lateral: lateralSchema.default({ red: 1, blue: 1 }),
  /** Largest radius that was measured, in half diagonals. */
  reach: z.number().min(0).max(1.5).default(1),
  /** From what the row was made, in words. */
  madeFrom: z.string().default(''),
});

/** A lens profile, version 1: a table over focal lengths in sensor orientation, and the names to match it on. */
export const lensProfileSchema = z
  .object({
    format: z.literal('able-plumb/lens-profile'),
    version: z.literal(1),
    id: z.string().min(1),
    name: z.string().min(1),
    /** Camera and lens strings as the metadata write them. */
    cameras: z.array(z.string().min(1)).default([]),
    lenses: z.array(z.string().min(1)).default([]),
    /** Size of the pictures it was made from, px, as the sensor has them. */
    frame: z.object({ width: z.number().int().min(1).max(32767), height: z.number().int().min(1).max(32767) }),
    madeBy: z.string().default(''),
    rows: z.array(profileRowSchema).min(1),
  })
  .refine(
    ({ rows }) => rows.length === 1 || new Set(rows.map((row) => row.focalMm ?? 'none')).size === rows.length,
    'Every row needs a focal length of its own.',
  )
  .refine(({ rows }) => rows.length === 1 || rows.every((row) => row.focalMm !== null), 'Every row of several needs its focal length.');

export type LensProfile = z.output<typeof lensProfileSchema>;
export type ProfileRow = z.output<typeof profileRowSchema>;
