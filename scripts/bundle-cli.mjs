/* Bundles the command line into dist/cli, where it starts many times as quickly as from its sources; only when one of these is newer. */
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
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
    build({ ...common, entryPoints: [source('plumb')], plugins: [apart], banner: {} }),
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
  // parts of bundles before this one go when nobody can be about to read them
  const made = new Set(outputFiles.map(({ path }) => path));
  for (const name of readdirSync(OUT).filter((one) => one.startsWith('part-'))) {
    const path = join(OUT, name);
    if (!made.has(path) && Date.now() - statSync(path).mtimeMs > 600_000) rmSync(path);
  }
  return PLUMB;
}
