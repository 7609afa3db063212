import * as z from 'zod';
import { deliverySchema } from '../delivery/schema';
import { PlumbError } from '../picture/failure';

/** A path inside a job file: one folder, one name, nothing that leads out of it. */
const pathIn = (folder: string): z.ZodString =>
  z.string().regex(new RegExp(`^${folder}/[^/\\\\:\\u0000-\\u001f]{1,200}$`), `must be a name in ${folder}/`);

const hash = z.string().regex(/^[0-9a-f]{64}$/);

/** The list of a job file: its pictures with their corrections, the deliveries and lens profiles that they speak of. */
export const jobManifestSchema = z.object({
  format: z.literal('able-plumb/job'),
  version: z.literal(1),
  name: z.string().min(1).max(200),
  pictures: z
    .array(
      z.object({
        /** The picture's name; its file's may differ where two have the same, or several are made of one original. */
        name: z.string().min(1).max(255),
        file: pathIn('pictures'),
        correction: pathIn('corrections'),
        bytes: z.number().int().min(1),
        sha256: hash,
        /** Pictures of one linked set have the same. */
        set: z.string().max(100).optional(),
      }),
    )
    .max(5000),
  deliveries: z.array(deliverySchema).max(200).default([]),
  lenses: z.array(pathIn('lenses')).max(500).default([]),
});

export type JobManifest = z.output<typeof jobManifestSchema>;

/** The JSON Schema (draft 2020-12) of a job file's list. */
export const jobJsonSchema = (): unknown => ({ title: 'Able Plumb job, version 1', ...z.toJSONSchema(jobManifestSchema, { io: 'input' }) });

/** A job file that is not taken in; nothing of it is kept. */
export class JobFileError extends PlumbError {
  constructor(code: string, message: string) {
    super(code, message, 'Nothing of it was kept; your own jobs are as they were.');
    this.name = 'JobFileError';
  }
}

/**
 * Reads the list of a job file.
 * @param text JSON
 * @throws JobFileError naming what is impossible
 */
export function parseJobManifest(text: string): JobManifest {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    throw new JobFileError('job-damaged', 'Its list (job.json) is not JSON.');
  }
  const version = (document as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > 1)
    throw new JobFileError('job-newer', `It has version ${version}; this Able Plumb reads version 1. A newer Able Plumb can open it.`);
  const result = jobManifestSchema.safeParse(document);
  if (!result.success) {
    const issue = result.error.issues[0];
    throw new JobFileError(
      'job-refused',
      `Its list has an impossible value at ${issue?.path.join('.') || 'its root'}: ${issue?.message ?? ''}.`,
    );
  }
  const { pictures, lenses } = result.data;
  // several pictures may be made of one original; everything else stands for itself
  const originals = new Map(pictures.map((p) => [p.file.toLowerCase(), p]));
  const files = [...originals.keys(), ...pictures.map((p) => p.correction.toLowerCase()), ...lenses.map((file) => file.toLowerCase())];
  const differs = pictures.some((p) => {
    const one = originals.get(p.file.toLowerCase());
    return one?.file !== p.file || one.sha256 !== p.sha256 || one.bytes !== p.bytes;
  });
  if (differs || new Set(files).size < files.length) throw new JobFileError('job-refused', 'Its list names the same file twice.');
  return result.data;
}
