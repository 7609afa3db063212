/* Speed and accuracy, measured in one run; writes bench/results.json. */
import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { bundleCli } from '../../scripts/bundle-cli.mjs';
import { browserRows } from './browser-rows';
import { kernelRows } from './kernel-rows';
import { onOneCore } from './one-core';
import { deviationRows } from './deviation-rows';
import { findingRows } from './finding-rows';
import { hasPeer, startPeer } from './peer';
import { manyRows } from './many-rows';
import { plainRows } from './plain-rows';
import { fillRows } from './fill-rows';
import { sheetRows } from './sheet-rows';
import { solvingRows } from './solving-rows';
import { threadRows } from './thread-rows';
import type { Rows } from './timing';
import { wholeProcessRows } from './whole-process';

useNodeCodecs();
useNativeJpeg();
const here = dirname(fileURLToPath(import.meta.url));
const root = join(here, '../..');
const rows: Rows = {};

/** What is measured, by name: `npm run bench -- kernel preview` measures these only, and writes nothing. */
const parts: Readonly<Record<string, () => Promise<void> | void>> = {
  kernel: async () => {
    const peer = hasPeer() ? startPeer() : null;
    await onOneCore([process.pid, ...(peer ? [peer.pid] : [])], () => kernelRows(rows, peer)).finally(() => peer?.stop());
  },
  plain: () => plainRows(rows),
  threads: () => threadRows(rows),
  whole: async () => wholeProcessRows(rows, await bundleCli(), join(root, '.cache/bench'), hasPeer()),
  solving: () => solvingRows(rows, root),
  deviations: () => deviationRows(rows),
  finding: () => findingRows(rows),
  sheets: () => sheetRows(rows),
  fill: () => fillRows(rows, hasPeer()),
  many: async () => manyRows(rows, await bundleCli(), root),
  browser: () => browserRows(rows, root),
};

const asked = process.argv.slice(2);
for (const name of asked) if (!(name in parts)) throw new Error(`There is no part "${name}"; there are ${Object.keys(parts).join(', ')}.`);
for (const [name, part] of Object.entries(parts)) {
  if (asked.length > 0 && !asked.includes(name)) continue;
  const known = Object.keys(rows).length;
  await part();
  for (const [row, value] of Object.entries(rows).slice(known)) process.stdout.write(`${value.toFixed(2).padStart(10)}  ${row}\n`);
}
if (asked.length === 0)
  writeFileSync(
    join(here, '../results.json'),
    `${JSON.stringify({ date: new Date().toISOString().slice(0, 10), machine: `${cpus().length} x ${cpus()[0]?.model ?? 'unknown'}, Node.js ${process.versions.node}`, rows }, null, 1)}\n`,
  );
