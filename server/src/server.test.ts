import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { listen } from './index';

const folder = mkdtempSync(join(tmpdir(), 'plumb-server-'));
let server: Server;
let address: string;

beforeAll(async () => {
  mkdirSync(join(folder, 'app'));
  mkdirSync(join(folder, 'demo'));
  writeFileSync(join(folder, 'app/index.html'), '<title>app</title>');
  writeFileSync(join(folder, 'app/main-ABCDEFGH.js'), '1');
  writeFileSync(join(folder, 'demo/index.json'), '{}');
  ({ server, address } = await listen({ app: join(folder, 'app'), demo: join(folder, 'demo') }, 0));
});
afterAll(() => server.close());

describe('the server', () => {
  it('listens on loopback and isolates every response', async () => {
    expect(address).toMatch(/^http:\/\/127\.0\.0\.1:\d+\/$/);
    for (const path of ['', 'bench/x', 'missing.js', 'demo-job/index.json']) {
      const { headers } = await fetch(address + path);
      expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
      expect(headers.get('cross-origin-embedder-policy')).toBe('require-corp');
      expect(headers.get('content-security-policy')).toContain("default-src 'self'");
    }
  });

  it('serves the application for its routes, but a missing file is a missing file, and nothing outside its folders', async () => {
    const get = async (path: string): Promise<readonly [number, string]> => {
      const response = await fetch(address + path, { headers: { accept: 'text/html' } });
      return [response.status, await response.text()];
    };
    expect(await get('bench/abc')).toEqual([200, '<title>app</title>']);
    expect((await get('main-XXXXXXXX.js'))[0]).toBe(404);
    expect((await get('demo-job/none.jpg'))[1]).toContain('Nothing here');
    expect((await get('demo-job/..%2f..%2f..%2fetc%2fpasswd'))[1]).not.toContain('root:');
    expect((await get('%zz'))[0]).toBe(400);
    expect((await fetch(`${address}main-ABCDEFGH.js`)).headers.get('cache-control')).toContain('immutable');
  });
});
