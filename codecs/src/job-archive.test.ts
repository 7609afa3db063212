import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { TextReader, BlobWriter, Uint8ArrayReader, ZipWriter } from '@zip.js/zip.js';
import { describe, expect, it } from 'vitest';
import { jobJsonSchema, JobFileError, newCorrection, withRollAdjust, type JobManifest } from '@able-plumb/core';
import { openJobArchive, writeJobArchive } from './index';

const bytes = new Uint8Array(readFileSync(new URL('../../demo/job/stair.jpg', import.meta.url)));
const sha256 = createHash('sha256').update(bytes).digest('hex');
const correction = withRollAdjust(newCorrection({ name: 'stair.jpg', width: 2400, height: 1600, sha256, focal35: 24 }), 1.5);
const picture = { name: 'stair.jpg', file: new Blob([bytes]), sha256, correction };
const delivery = {
  id: 'd1',
  name: 'web',
  ratio: 'crop',
  size: { kind: 'long-edge', px: 2048 },
  filter: 'lanczos3',
  light: 'encoded',
  background: 'transparent',
  colour: 'as-is',
  sharpen: 'none',
  format: { kind: 'jpeg', quality: 90, chroma: '4:4:4' },
  kept: 'all',
  pattern: '{name}',
} as const;

/** A zip of any entries, as somebody with bad intentions could make it. */
async function zipOf(entries: readonly (readonly [string, string | Uint8Array])[], level = 6): Promise<Blob> {
  const zip = new ZipWriter(new BlobWriter());
  for (const [name, data] of entries)
    await zip.add(name, typeof data === 'string' ? new TextReader(data) : new Uint8ArrayReader(data), { level });
  return zip.close();
}

const manifest = (change: Partial<JobManifest> = {}): string =>
  JSON.stringify({
    format: 'able-plumb/job',
    version: 1,
    name: 'Tarnbeck',
    pictures: [{ name: 'stair.jpg', file: 'pictures/stair.jpg', correction: 'corrections/a.json', bytes: bytes.length, sha256 }],
    ...change,
  });
const good = (): [string, string | Uint8Array][] => [
  ['job.json', manifest()],
  ['pictures/stair.jpg', bytes],
  ['corrections/a.json', JSON.stringify(correction)],
];

describe('a job file', () => {
  it('opens to the same job: originals byte for byte, corrections, deliveries, two pictures of the same name', async () => {
    const file = await writeJobArchive({
      name: 'Tarnbeck waterworks',
      pictures: [picture, { ...picture, set: 's1' }, { ...picture, name: '../../etc/passwd', set: 's1' }],
      deliveries: [delivery],
      lenses: [],
    });
    const job = await openJobArchive(file);
    expect(job.manifest).toMatchObject({ name: 'Tarnbeck waterworks', deliveries: [delivery] });
    expect(job.manifest.pictures.map((p) => [p.name, p.set])).toEqual([
      ['stair.jpg', undefined],
      ['stair.jpg', 's1'],
      ['../../etc/passwd', 's1'],
    ]);
    for (const [i, read] of job.corrections.entries()) {
      expect(read).toEqual(correction);
      expect(Buffer.compare(Buffer.from(await (await job.picture(i)).arrayBuffer()), Buffer.from(bytes))).toBe(0);
    }
  });

  it('made by hand to the written schema opens', async () => {
    await expect(openJobArchive(await zipOf(good()))).resolves.toMatchObject({ corrections: [correction] });
  });

  it('is refused whole, with a sentence, where anything about it is wrong', async () => {
    const without = (path: string): [string, string | Uint8Array][] => good().filter(([name]) => name !== path);
    const other = bytes.slice();
    other[1000] = (other[1000] as number) ^ 1;
    const bomb = new Uint8Array(40e6);
    // the size stated for the bomb in the central directory and beside it is changed to one that looks harmless
    const lying = new Uint8Array(await (await zipOf([...without('job.json'), ['job.json', bomb]])).arrayBuffer());
    const view = new DataView(lying.buffer);
    for (let at = 0; at + 4 < lying.length; at += 1) if (view.getUint32(at, true) === bomb.length) view.setUint32(at, 5000, true);
    const cases: readonly (readonly [string, Blob, RegExp])[] = [
      ['no zip', new Blob(['a job, honestly']), /no job file/],
      ['cut short', (await zipOf(good())).slice(0, 20000), /no job file, or it is cut short/],
      ['a way out', await zipOf([...good(), ['../evil.sh', 'x']]), /leads out of it/],
      ['an absolute path', await zipOf([...good(), ['/etc/cron.d/x', 'x']]), /leads out of it/],
      [
        'a way out in the list',
        await zipOf([['job.json', manifest().replace('pictures/stair', 'pictures/../../stair')], ...without('job.json')]),
        /pictures\.0\.file/,
      ],
      ['a file too many', await zipOf([...good(), ['pictures/more.jpg', bytes]]), /does not name/],
      ['a file missing', await zipOf(without('pictures/stair.jpg')), /pictures\/stair\.jpg is missing/],
      ['another picture', await zipOf([...without('pictures/stair.jpg'), ['pictures/stair.jpg', other]]), /hash differs/],
      ['another size', await zipOf([...without('pictures/stair.jpg'), ['pictures/stair.jpg', bytes.slice(1)]]), /another size/],
      ['no list', await zipOf(without('job.json')), /job\.json is missing/],
      ['a list of a newer version', await zipOf([['job.json', '{"version": 2}'], ...without('job.json')]), /newer Able Plumb/],
      [
        'a broken correction',
        await zipOf([...without('corrections/a.json'), ['corrections/a.json', '{}']]),
        /corrections\/a\.json cannot be read/,
      ],
      ['the same file twice', await zipOf([['job.json', manifest({ lenses: ['lenses/x', 'lenses/X'] })], ...without('job.json')]), /twice/],
      ['a bomb', await zipOf([...without('job.json'), ['job.json', bomb]], 9), /too large|would unpack/],
      ['a bomb that lies about its size', new Blob([lying]), /damaged|no job file/],
    ];
    for (const [what, file, sentence] of cases) {
      const error: unknown = await openJobArchive(file).then(
        () => null,
        (e: unknown) => e,
      );
      expect(error, what).toBeInstanceOf(JobFileError);
      expect((error as Error).message, what).toMatch(sentence);
      expect((error as Error).message, what).toMatch(/Nothing of it was kept/);
    }
  });

  it('has its schema written down', () => {
    const written: unknown = JSON.parse(readFileSync(new URL('../../docs/schema/job.schema.json', import.meta.url), 'utf8'));
    expect(written).toEqual(jobJsonSchema());
  });
});
