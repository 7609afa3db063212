/* Bundles the command line into dist/cli, where it starts many times as quickly as from its sources; only when one of these is newer. */
import {
  copyFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { basename, join } from 'node:path';
import { root } from './setup.mjs';

const OUT = join(root, 'dist/cli');
export const PLUMB = join(OUT, 'plumb.mjs');
const THREADS = ['render-worker', 'batch-worker'];
const ENTRIES = ['looking', 'working', ...THREADS, 'plumb'];

function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    latest = Math.max(latest, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return latest;
}

/** Compiled codecs, from the packages that they come in. */
const CODECS = ['@jsquash/jpeg/codec', '@jsquash/webp/codec', '@jsquash/avif/codec', '@jsquash/jxl/codec', 'lcms-wasm/dist'];

/** What makes a package of the bundle: it needs nothing else installed. */
function writePackage() {
  const { version, license, engines } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
  const description = 'Levels horizons, corrects converging verticals and keystone, trims empty edges: the command line of Able Plumb.';
  const about = { name: 'able-plumb-cli', version, description, license, type: 'module', engines };
  writeFileSync(join(OUT, 'package.json'), `${JSON.stringify({ ...about, bin: { plumb: 'plumb.mjs' }, files: FILES }, null, 2)}\n`);
  copyFileSync(join(root, 'docs/guide/command-line.md'), join(OUT, 'README.md'));
  copyFileSync(join(root, 'LICENSE'), join(OUT, 'LICENSE'));
  for (const folder of CODECS) {
    const from = join(root, 'node_modules', folder);
    for (const name of readdirSync(from, { recursive: true }).filter((path) => USED_CODECS.test(path)))
      cpSync(join(from, name), join(OUT, 'codecs', basename(name)));
  }
}

const FILES = ['*.mjs', 'codecs'];
const USED_CODECS = /(^|\/)(mozjpeg_(dec|enc)|webp_(dec|enc_simd)|avif_(dec|enc)|jxl_(dec|enc)|lcms)\.wasm$/;

/** Path of the bundled command line. */
export async function bundleCli() {
  const sources = Math.max(
    ...['core/src', 'codecs/src', 'cli/src'].map((folder) => newest(join(root, folder))),
    ...['package-lock.json', 'scripts/bundle-cli.mjs'].map((file) => statSync(join(root, file)).mtimeMs),
  );
  const files = ENTRIES.map((name) => join(OUT, `${name}.mjs`));
  if (files.every((file) => existsSync(file) && statSync(file).mtimeMs > sources)) return PLUMB;
  const { build } = await import('esbuild');
  const common = {
    outdir: OUT,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    write: false,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // less to read at each start
    minify: true,
    // native code, from its own package, where it is installed
    external: ['sharp'],
    banner: { js: "import { createRequire as requireFrom } from 'node:module';\nconst require = requireFrom(import.meta.url);" },
    logLevel: 'error',
  };
  const source = (name) => join(root, `cli/src/${name}.ts`);
  // each of these is bundled by itself: what looks at a file does not read what computes
  const apart = {
    name: 'apart',
    setup: ({ onResolve }) => onResolve({ filter: /^\.\/(looking|working)$/ }, ({ path }) => ({ path: `${path}.mjs`, external: true })),
  };
  const results = await Promise.all([
    build({ ...common, entryPoints: [source('plumb')], plugins: [apart], banner: { js: '#!/usr/bin/env node' } }),
    build({ ...common, entryPoints: [source('looking')] }),
    // what verbs and threads share is in parts of their own
    build({ ...common, entryPoints: ['working', ...THREADS].map(source), splitting: true, chunkNames: 'part-[hash]' }),
  ]);
  const outputFiles = results.flatMap((result) => result.outputFiles);
  mkdirSync(OUT, { recursive: true });
  // each appears whole, and entries after what they need: another command may be starting
  const isPart = ({ path }) => basename(path).startsWith('part-');
  for (const { path, contents } of [...outputFiles.filter(isPart), ...outputFiles.filter((file) => !isPart(file)).reverse()]) {
    const partial = join(OUT, `.${basename(path)}-${process.pid}`);
    writeFileSync(partial, contents);
    renameSync(partial, path);
  }
  writePackage();
  // parts of bundles before this one go when nobody can be about to read them
  const made = new Set(outputFiles.map(({ path }) => path));
  for (const name of readdirSync(OUT).filter((one) => one.startsWith('part-'))) {
    const path = join(OUT, name);
    if (!made.has(path) && Date.now() - statSync(path).mtimeMs > 600_000) rmSync(path);
  }
  return PLUMB;
}
