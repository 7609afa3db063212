/* Bundles the command line into dist/cli, where it starts many times as quickly as from its sources; only when one of these is newer. */
import { existsSync, mkdirSync, readdirSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { build } from 'esbuild';
import { root } from './setup.mjs';

const OUT = join(root, 'dist/cli');
export const PLUMB = join(OUT, 'plumb.mjs');
const ENTRIES = ['plumb', 'render-worker', 'batch-worker'];

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
  const { outputFiles } = await build({
    entryPoints: ENTRIES.map((name) => join(root, `cli/src/${name}.ts`)),
    outdir: OUT,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    write: false,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // less to read at each start
    minifyWhitespace: true,
    minifySyntax: true,
    // native code, from its own package
    external: ['sharp'],
    banner: { js: "import { createRequire as requireFrom } from 'node:module';\nconst require = requireFrom(import.meta.url);" },
    logLevel: 'error',
  });
  mkdirSync(OUT, { recursive: true });
  // each appears whole: another command may be starting
  for (const { path, contents } of outputFiles) {
    const partial = join(OUT, `.${basename(path)}-${process.pid}`);
    writeFileSync(partial, contents);
    renameSync(partial, path);
  }
  return PLUMB;
}
