import * as z from 'zod';
import { backgroundSchema, colourSchema, filterSchema, lightSchema, outputSizeSchema, sharpenSchema } from '../correction/schema';

const quality = z.number().int().min(1).max(100);
/** Depth of a file; `as-taken` for the original's. */
const bits = z.union([z.literal(8), z.literal(16), z.literal('as-taken')]);
/** Largest file, bytes: the quality is lowered until it fits. */
const mostBytes = z.number().int().min(1000).optional();

/** A picture format that is written, and how. */
export const exportFormatSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('jpeg'),
    quality,
    chroma: z.enum(['4:4:4', '4:2:0']),
    /** As small as the quality allows, by a second pass that takes many times as long. */
    smallest: z.boolean().optional(),
    mostBytes,
  }),
  z.object({ kind: z.literal('png'), bits }),
  z.object({ kind: z.literal('tiff'), bits, compression: z.enum(['none', 'deflate']) }),
  z.object({ kind: z.literal('webp'), quality, lossless: z.boolean(), mostBytes }),
  z.object({ kind: z.literal('avif'), quality, lossless: z.boolean() }),
  z.object({ kind: z.literal('jxl'), quality, lossless: z.boolean() }),
]);

/** What of the metadata goes along: all, all but the position where the picture was taken, or the colour profile alone. */
export const keptMetadataSchema = z.enum(['all', 'no-position', 'none']);

/**
 * A named way to hand a picture over: proportions, size, format, metadata and file name. `ratio` is "crop" for the picture's own crop, "as-taken",
 * or width / height.
 */
export const deliverySchema = z.object({
  id: z.string().min(1),
  name: z.string().min(1).max(80),
  ratio: z.union([z.literal('crop'), z.literal('as-taken'), z.number().positive()]),
  size: outputSizeSchema,
  filter: filterSchema,
  light: lightSchema.default('encoded'),
  background: backgroundSchema,
  colour: colourSchema.default('as-is'),
  sharpen: sharpenSchema.default('none'),
  format: exportFormatSchema,
  kept: keptMetadataSchema,
  /** File name without its ending, with words in braces. */
  pattern: z.string().min(1).max(200),
});

export type ExportFormat = z.output<typeof exportFormatSchema>;
export type KeptMetadata = z.output<typeof keptMetadataSchema>;
export type Delivery = z.output<typeof deliverySchema>;
