/* The command line, set up and bundled when its sources may have changed: when the checkout has, or the lock file. */
import { existsSync, mkdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const dateOf = (path) => (existsSync(join(root, path)) ? statSync(join(root, path)).mtimeMs : 0);

const STAMP = 'dist/cli/.looked-at';
const PLUMB = 'dist/cli/plumb.mjs';
// sources that were edited since are bundled by npm run build; looking at the date of each takes longer than starting
const changed = Math.max(...['package-lock.json', '.git/index', 'node_modules/.able-plumb-lock', 'scripts/bundle-cli.mjs'].map(dateOf));
if (dateOf(PLUMB) === 0 || dateOf(STAMP) <= changed || dateOf('node_modules/.able-plumb-lock') === 0) {
  const { ensureDependencies } = await import('./setup.mjs');
  ensureDependencies();
  const { bundleCli } = await import('./bundle-cli.mjs');
  await bundleCli();
  mkdirSync(dirname(join(root, STAMP)), { recursive: true });
  writeFileSync(join(root, STAMP), '');
}
await import(pathToFileURL(join(root, PLUMB)).href);
