import type * as z from 'zod';
import { PlumbError } from '../picture/failure';
import { correctionSchema, type Correction } from './schema';

/** A document that is not a correction, or whose values are impossible; `path` says where. */
export class CorrectionError extends PlumbError {
  constructor(
    readonly path: string,
    message: string,
  ) {
    super('correction-refused', message, 'Nothing was applied.');
    this.name = 'CorrectionError';
  }
}

/** Brings a document of an older version to the present one; each entry takes the version that is its key one further. */
const MIGRATIONS: Readonly<Record<number, (document: Record<string, unknown>) => Record<string, unknown>>> = {};

const NEWEST = 1;

/**
 * Reads a correction document and fills in the defaults. Unknown fields are dropped.
 *
 * @param document what `JSON.parse` gave
 * @throws CorrectionError naming the path of the first value that is refused; nothing half-read is returned
 */
export function parseCorrection(document: unknown): Correction {
  if (typeof document !== 'object' || document === null || Array.isArray(document)) {
    throw new CorrectionError('', 'This is not a correction: an object was expected.');
  }
  let current = document as Record<string, unknown>;
  if (current['format'] !== 'able-plumb/correction') {
    throw new CorrectionError(
      'format',
      `This is not a correction: format is ${JSON.stringify(current['format'])}, "able-plumb/correction" was expected.`,
    );
  }
  const version = current['version'];
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1) {
    throw new CorrectionError('version', `The version ${JSON.stringify(version)} of this correction is not a whole number from 1.`);
  }
  if (version > NEWEST) {
    throw new CorrectionError(
      'version',
      `This correction has version ${version}; this Able Plumb reads up to version ${NEWEST}. A newer Able Plumb can open it.`,
    );
  }
  for (let v = version; v < NEWEST; v += 1) current = MIGRATIONS[v]?.(current) ?? current;
  const result = correctionSchema.safeParse(current);
  if (result.success) return result.data;
  throw issueError(result.error);
}

function issueError(error: z.ZodError): CorrectionError {
  const issue = error.issues[0];
  const path = (issue?.path ?? [])
    .map((part) => (typeof part === 'number' ? `[${part}]` : `.${String(part)}`))
    .join('')
    .replace(/^\./, '');
  return new CorrectionError(path, `The correction has an impossible value at ${path || 'its root'}: ${issue?.message ?? 'unknown'}.`);
}
