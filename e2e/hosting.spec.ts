import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { demoPicture, expect, openStep, test } from './support';

const NGINX = ['/usr/sbin/nginx', '.cache/nginx/usr/sbin/nginx'].find((path) => existsSync(path)) as string;

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

let folder: string;
let nginx: ChildProcess;
let address: string;

test.beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'plumb-nginx-'));
  const port = await freePort();
  const page = readFileSync('docs/guide/hosting.md', 'utf8');
  const told = (/```nginx\n([\s\S]*?)```/.exec(page) as RegExpExecArray)[1] as string;
  const block = told.replace('127.0.0.1:8080', `127.0.0.1:${port}`).replace('/srv/able-plumb', join(process.cwd(), 'dist/app/browser'));
  const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map((what) => `${what}_temp_path ${folder}/${what};`).join(' ');
  writeFileSync(
    join(folder, 'nginx.conf'),
    `daemon off; master_process off; pid ${folder}/pid; error_log ${folder}/errors; events {} http { access_log off; ${temporary} ${block} }`,
  );
  nginx = spawn(NGINX, ['-p', folder, '-c', join(folder, 'nginx.conf'), '-e', join(folder, 'errors')], { stdio: 'ignore' });
  address = `http://127.0.0.1:${port}`;
  await expect.poll(() => fetch(address).then((r) => r.status, () => 0)).toBe(200); // prettier-ignore
});

test.afterAll(() => {
  nginx.kill();
  rmSync(folder, { recursive: true, force: true });
});

test('under the server block of the hosting page: the headers of our own server, every route, threads, an export', async ({
  page,
  baseURL,
}) => {
  const names = ['opener', 'embedder'].map((what) => `cross-origin-${what}-policy`);
  names.push('cross-origin-resource-policy', 'content-security-policy', 'x-content-type-options', 'referrer-policy', 'cache-control');
  const script = (/src="(main-[A-Z0-9]{8}\.js)"/.exec(await (await fetch(address)).text()) as RegExpExecArray)[1] as string;
  for (const path of [
    '/',
    '/bench/nothing',
    '/job/nothing',
    `/${script}`,
    '/codecs/lcms.wasm',
    '/ngsw.json',
    '/manifest.webmanifest',
    '/no-such-file.js',
  ]) {
    const [theirs, ours] = await Promise.all([fetch(`${address}${path}`), fetch(new URL(path, baseURL))]);
    expect(theirs.status, path).toBe(ours.status);
    const type = (response: Response): string | undefined => response.headers.get('content-type')?.split(';')[0];
    if (theirs.status === 200) expect(type(theirs), path).toBe(type(ours));
    for (const name of theirs.status === 200 ? names : names.slice(0, 2))
      expect(theirs.headers.get(name), `${path}: ${name}`).toBe(ours.headers.get(name));
  }
  await page.goto(address);
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'plate.jpg', mimeType: 'image/jpeg', buffer: demoPicture('name-plate.jpg') });
  await page.waitForURL('**/bench/**');
  await page.reload();
  await openStep(page, 'Export');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export', exact: true }).click()]);
  const { width, height } = await sharp(demoPicture('name-plate.jpg')).metadata();
  expect(await sharp(await download.path()).metadata()).toMatchObject({ format: 'jpeg', width, height });
});
