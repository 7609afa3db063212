import * as z from 'zod';
import { correctionSchema } from './schema';

/** The JSON Schema (draft 2020-12) of the correction document as it may be written by hand. */
export const correctionJsonSchema = (): unknown => ({
  title: 'Able Plumb correction, version 1',
  ...z.toJSONSchema(correctionSchema, { io: 'input' }),
});
