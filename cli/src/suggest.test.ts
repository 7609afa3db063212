import { execFile } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const job = join(root, 'demo/job');
const folder = mkdtempSync(join(tmpdir(), 'plumb-suggest-'));

const plumb = (...args: readonly string[]): Promise<{ readonly code: number; readonly out: string; readonly err: string }> =>
  new Promise((resolve) => {
    execFile(process.execPath, ['scripts/plumb.mjs', ...args], { cwd: root, maxBuffer: 64e6 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });

interface Stance {
  readonly roll: number;
  readonly tilt: number;
  readonly swing: number;
}
interface Printed {
  readonly suggestions: readonly {
    readonly kind: string;
    readonly sure: string;
    readonly withinDeg: number;
    readonly stance: Stance;
    readonly correction: unknown;
  }[];
  readonly silent: readonly { readonly kind: string; readonly why: string }[];
}
const truthOf = (name: string): Stance => (JSON.parse(readFileSync(join(job, `${name}.truth.json`), 'utf8')) as { stance: Stance }).stance;
const lines = (text: string): readonly Record<string, unknown>[] =>
  text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);

describe('plumb suggest', () => {
  it('has the true stance among its first two, the stair and the tower included, ready for apply', async () => {
    for (const name of ['pump-hall-front', 'water-tower', 'stair', 'filter-gallery']) {
      const { code, out } = await plumb('suggest', join(job, `${name}.jpg`));
      expect(code).toBe(0);
      const said = JSON.parse(out) as Printed;
      const truth = truthOf(name);
      const near = said.suggestions
        .slice(0, 2)
        .filter(({ stance }) => Math.abs(stance.roll - truth.roll) < 0.15 && Math.abs(stance.tilt - truth.tilt) < 0.15);
      expect(near.length, name).toBeGreaterThan(0);
      if (name !== 'stair') continue;
      const correction = join(folder, 'stair.correction.json');
      writeFileSync(correction, JSON.stringify(near[0]?.correction));
      const applied = await plumb('apply', correction, join(job, 'stair.jpg'), '--out', join(folder, 'stair.jpg'));
      expect(applied.code).toBe(0);
    }
  }, 120_000);

  it('says what is wrong with wrong use', async () => {
    expect((await plumb('suggest')).code).toBe(2);
    expect((await plumb('batch', '--suggest', 'sideways', 'a.jpg')).err).toContain('--suggest is one of');
    expect((await plumb('batch', '--sure', '0.1', 'a.json', 'a.jpg', '--out', folder)).err).toContain('--sure needs --suggest');
    expect((await plumb('batch', '--suggest', 'front', '--shard', '4/3', 'a.jpg')).err).toContain('--shard is a part of a whole');
    const list = join(folder, 'bad.jsonl');
    writeFileSync(list, '{"picture": "a.jpg"}\nnonsense\n');
    const bad = await plumb('batch', '--suggest', 'front', '--list', list);
    expect(bad.code).toBe(1);
    expect(bad.err).toContain('Line 2 of');
  }, 60_000);

  it('takes the sure ones of a list in parts, leaves the others with the reason, and goes on where it was', async () => {
    const pictures = mkdtempSync(join(tmpdir(), 'plumb-list-'));
    for (const name of ['stair', 'water-tower', 'prints-sheet']) copyFileSync(join(job, `${name}.jpg`), join(pictures, `${name}.jpg`));
    writeFileSync(join(pictures, 'broken.jpg'), 'no picture');
    const list = join(pictures, 'list.jsonl');
    writeFileSync(list, ['stair', 'water-tower', 'prints-sheet', 'broken'].map((name) => `{"picture": "${name}.jpg"}`).join('\n'));
    const out = join(folder, 'parts');
    const run = (...more: readonly string[]) =>
      plumb('batch', '--suggest', 'stand-plumb', '--sure', '0.15', '--list', list, '--out', out, '--long-edge', '600', '--resume', ...more);

    const first = lines((await run('--shard', '1/2')).out);
    expect(first.at(-1)).toEqual({ written: 1, left: 1, skipped: 0, failed: 0 });
    expect(first.find((row) => 'left' in row)?.['left']).toMatch(/\.$/);
    const second = lines((await run('--shard', '2/2')).out);
    expect(second.at(-1)).toEqual({ written: 1, left: 0, skipped: 0, failed: 1 });
    expect([...readdirSync(out)].sort()).toEqual(['stair.jpg', 'water-tower.jpg']);

    // one is lost: only that one is made again
    rmSync(join(out, 'stair.jpg'));
    const again = lines((await run()).out);
    expect(again.at(-1)).toEqual({ written: 1, left: 1, skipped: 1, failed: 1 });
    const row = again.find((r) => r['file'] === join(out, 'stair.jpg')) as unknown as { suggestion: { kind: string; stance: Stance } };
    expect(row.suggestion.kind).toBe('stand-plumb');
    expect(Math.abs(row.suggestion.stance.tilt - truthOf('stair').tilt)).toBeLessThan(0.15);

    // all of a part is there: it is done, and no engine runs it again
    const done = await run('--shard', '2/4');
    expect(done.code).toBe(0);
    expect(lines(done.out).at(-1)).toEqual({ written: 0, left: 0, skipped: 1, failed: 0 });
    expect((await run('--shard', '4/4')).code).toBe(1);

    // without a folder it only says
    const said = lines((await plumb('batch', '--suggest', 'front', join(pictures, 'water-tower.jpg'))).out);
    expect(said.at(-1)).toEqual({ said: 1, left: 0, failed: 0 });
    expect((said[0]?.['suggestion'] as { correction: unknown }).correction).toBeTruthy();
  }, 180_000);

  it('is run in parts by GNU parallel (docs/guide/archives.md); a part that is killed in the middle is run again and goes on', async () => {
    const at = mkdtempSync(join(tmpdir(), 'plumb-parallel-'));
    const names = ['stair', 'water-tower', 'filter-gallery'].flatMap((name) => [name, `${name}-2`]);
    for (const name of names) copyFileSync(join(job, `${name.replace('-2', '')}.jpg`), join(at, `${name}.jpg`));
    writeFileSync(join(at, 'survey.jsonl'), names.map((name) => `{"picture": "${name}.jpg"}`).join('\n'));
    for (const name of ['rows', 'pids']) mkdirSync(join(at, name));
    const part = `echo $$ >> pids/{}; exec ${process.execPath} ${join(root, 'dist/cli/plumb.mjs')} batch --suggest stand-plumb --sure 0.15 \
      --list survey.jsonl --shard {}/2 --resume --jobs 1 --long-edge 400 --out done > rows/{}.jsonl`;
    const ended = new Promise<number>((resolve) => {
      execFile('parallel', ['--jobs', '2', '--retries', '3', '--joblog', 'parts.log', part, ':::', '1', '2'], { cwd: at }, (error) =>
        resolve(error ? Number(error.code) : 0),
      );
    });
    const read = (path: string): string => (existsSync(join(at, path)) ? readFileSync(join(at, path), 'utf8') : '');
    // once the second part has written a picture
    while (!read('rows/2.jsonl').includes('\n')) await new Promise((resolve) => setTimeout(resolve, 20));
    process.kill(Number(read('pids/2')), 'SIGKILL');
    expect(await ended).toBe(0);
    expect(read('pids/2').trim().split('\n')).toHaveLength(2);
    expect(readdirSync(join(at, 'done')).sort()).toEqual(names.map((name) => `${name}.jpg`).sort());
    const last = lines(read('rows/2.jsonl')).at(-1) as { written: number; skipped: number };
    expect([last.written + last.skipped, last.skipped > 0]).toEqual([3, true]);
  }, 180_000);
});
