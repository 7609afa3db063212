import type { FileEntry } from '@zip.js/zip.js';
import {
  freeName,
  JobFileError,
  jobManifestSchema,
  parseCorrection,
  parseJobManifest,
  readLensFile,
  safeName,
  stemOf,
  type Correction,
  type Delivery,
  type JobManifest,
  type LensProfile,
} from '@able-plumb/core';
import { newZip, zipPackage } from './new-zip';

/** Largest list, correction or lens file, and largest picture file, bytes. */
const LARGEST_TEXT = 20e6;
const LARGEST_PICTURE = 4e9;
/** Most entries: each picture has two, and a few more. */
const MOST_ENTRIES = 11000;

/** A job with everything that goes into its file. */
export interface JobParts {
  readonly name: string;
  readonly pictures: readonly {
    readonly name: string;
    readonly file: Blob;
    readonly sha256: string;
    readonly correction: Correction;
    readonly set?: string | undefined;
  }[];
  readonly deliveries: readonly Delivery[];
  readonly lenses: readonly LensProfile[];
}

/** Writes a job file: the originals untouched and stored as they are, the corrections, deliveries and lens profiles, and the list of all. */
export async function writeJobArchive({ name, pictures, deliveries, lenses }: JobParts): Promise<Blob> {
  const zip = await newZip();
  const json = (value: unknown): Blob => new Blob([`${JSON.stringify(value, null, 2)}\n`]);
  const taken = new Set<string>();
  const rows: JobManifest['pictures'] = [];
  // an original of which several pictures are made is there once
  const written = new Map<string, string>();
  for (const picture of pictures) {
    const [stem, ending] = [safeName(stemOf(picture.name)) || 'picture', picture.name.split('.').pop() ?? 'jpg'];
    const file = freeName(stem, safeName(ending) || 'jpg', taken);
    const row = {
      name: picture.name,
      file: written.get(picture.sha256) ?? `pictures/${file}`,
      correction: `corrections/${file}.correction.json`,
      bytes: picture.file.size,
      sha256: picture.sha256,
      ...(picture.set === undefined ? {} : { set: picture.set }),
    };
    rows.push(row);
    if (!written.has(picture.sha256)) await zip.add(row.file, picture.file);
    written.set(picture.sha256, row.file);
    await zip.add(row.correction, json(picture.correction));
  }
  const named = lenses.map((profile) => ({ profile, file: `lenses/${freeName(safeName(profile.name) || 'lens', 'lens.json', taken)}` }));
  for (const { profile, file } of named) await zip.add(file, json(profile));
  const manifest: JobManifest = jobManifestSchema.parse({
    format: 'able-plumb/job',
    version: 1,
    name,
    pictures: rows,
    deliveries,
    lenses: named.map(({ file }) => file),
  });
  await zip.add('job.json', json(manifest));
  return zip.close();
}

/** A job file whose every part was checked. */
export interface JobArchive {
  readonly manifest: JobManifest;
  readonly corrections: readonly Correction[];
  readonly lenses: readonly LensProfile[];
  /** One of its pictures, as it went in. */
  picture(index: number): Promise<Blob>;
}

/**
 * Opens a job file and checks all of it before anything is handed out: names, number and sizes of the entries, the list, every
 * correction, every picture's hash.
 * @param onProgress share of the pictures checked
 * @throws JobFileError; a file that fails in one respect is refused whole
 */
export async function openJobArchive(file: Blob, onProgress: (share: number) => void = () => undefined): Promise<JobArchive> {
  const entries = await listed(file);
  const text = (path: string): Promise<string> => textOf(entries, path);
  const manifest = parseJobManifest(await text('job.json'));
  const named = new Set(['job.json', ...manifest.pictures.flatMap((p) => [p.file, p.correction]), ...manifest.lenses]);
  const extra = [...entries.keys()].find((name) => !named.has(name));
  if (extra !== undefined) throw new JobFileError('job-refused', `It holds "${extra}", which its list does not name.`);
  const corrections: Correction[] = [];
  for (const row of manifest.pictures) {
    const correction = await read(row.correction, await text(row.correction), (t) => parseCorrection(JSON.parse(t)));
    if (correction.picture.sha256 !== undefined && correction.picture.sha256 !== row.sha256)
      throw new JobFileError('job-refused', `${row.correction} belongs to another picture than ${row.file}.`);
    corrections.push(correction);
  }
  const lenses: LensProfile[] = [];
  for (const path of manifest.lenses) lenses.push(await read(path, await text(path), (t) => readLensFile(t, path, path)));
  const picture = async (index: number): Promise<Blob> => {
    const row = manifest.pictures[index] as JobManifest['pictures'][number];
    const bytes = await bytesOf(entries, row.file, LARGEST_PICTURE);
    if (bytes.length !== row.bytes) throw new JobFileError('job-damaged', `${row.file} has another size than its list says.`);
    const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
    if (Array.from(digest, (b) => b.toString(16).padStart(2, '0')).join('') !== row.sha256)
      throw new JobFileError('job-damaged', `${row.file} is not the file that its list names: its hash differs.`);
    return new Blob([bytes]);
  };
  for (const [i, row] of manifest.pictures.entries()) {
    // what several pictures are made of is looked at once
    if (manifest.pictures.findIndex(({ file: path }) => path === row.file) === i) await picture(i);
    onProgress((i + 1) / manifest.pictures.length);
  }
  return { manifest, corrections, lenses, picture };
}

/** The entries by name, each checked by what the file says of it. */
async function listed(file: Blob): Promise<ReadonlyMap<string, FileEntry>> {
  const { BlobReader, ERR_UNSAFE_FILENAME, ZipReader } = await zipPackage();
  const found = new Map<string, FileEntry>();
  try {
    for await (const entry of new ZipReader(new BlobReader(file), { checkOverlappingEntry: true }).getEntriesGenerator()) {
      if (found.size >= MOST_ENTRIES) throw new JobFileError('job-refused', `It holds more than ${MOST_ENTRIES} files.`);
      if (entry.directory) continue;
      if (/^[/\\]|^[a-z]:|\\|(^|\/)\.\.(\/|$)/i.test(entry.filename))
        throw new JobFileError('job-refused', `It holds a file whose name leads out of it: "${entry.filename}".`);
      if (found.has(entry.filename)) throw new JobFileError('job-refused', `It holds "${entry.filename}" twice.`);
      if (entry.encrypted) throw new JobFileError('job-refused', 'It is locked with a password.');
      if (entry.uncompressedSize > LARGEST_PICTURE || entry.uncompressedSize > 1100 * (entry.compressedSize + 100))
        throw new JobFileError('job-refused', `"${entry.filename}" would unpack to ${entry.uncompressedSize} bytes.`);
      found.set(entry.filename, entry);
    }
  } catch (error) {
    if (error instanceof JobFileError) throw error;
    // the package looks at names too, and more strictly
    if ((error as Error).message.startsWith(ERR_UNSAFE_FILENAME))
      throw new JobFileError('job-refused', 'It holds a file whose name leads out of it.');
    throw new JobFileError('job-damaged', 'It is no job file, or it is cut short.');
  }
  return found;
}

async function bytesOf(entries: ReadonlyMap<string, FileEntry>, path: string, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const entry = entries.get(path);
  if (!entry) throw new JobFileError('job-damaged', `${path} is missing from it.`);
  if (entry.uncompressedSize > most) throw new JobFileError('job-refused', `${path} is too large (${entry.uncompressedSize} bytes).`);
  const out = new Uint8Array(entry.uncompressedSize);
  let length = 0;
  // what unpacks to more than is said of it is stopped there
  const room = new WritableStream<Uint8Array>({
    write(chunk) {
      out.set(chunk, length);
      length += chunk.length;
    },
  });
  try {
    await entry.getData(room, { checkSignature: true });
  } catch {
    throw new JobFileError('job-damaged', `${path} is damaged.`);
  }
  if (length < out.length) throw new JobFileError('job-damaged', `${path} is shorter than is said of it.`);
  return out;
}

async function textOf(entries: ReadonlyMap<string, FileEntry>, path: string): Promise<string> {
  return new TextDecoder().decode(await bytesOf(entries, path, LARGEST_TEXT));
}

async function read<T>(path: string, text: string, parse: (text: string) => T | Promise<T>): Promise<T> {
  try {
    return await parse(text);
  } catch (error) {
    throw new JobFileError('job-refused', `${path} cannot be read: ${(error as Error).message}`);
  }
}
