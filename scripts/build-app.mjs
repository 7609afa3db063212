/* The build of the application, and what is changed of Angular's service worker after it. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, runBeside } from './setup.mjs';

const SLOW = 'sha1Binary(await response.clone().arrayBuffer())';
const QUICK = 'await sha1OfBrowser(await response.clone().arrayBuffer())';
const OWN = `
async function sha1OfBrowser(bytes) {
  return Array.from(new Uint8Array(await crypto.subtle.digest('SHA-1', bytes)), (b) => b.toString(16).padStart(2, '0')).join('');
}
`;

/**
 * Builds the application into dist/app; errors alone are shown.
 * @returns whether it was built
 */
export async function buildApp() {
  const env = { ...process.env, NG_CLI_ANALYTICS: 'false' };
  if (!(await runBeside('ng', ['build'], { stdio: ['ignore', 'ignore', 'inherit'], env }))) return false;
  hashByBrowser(join(root, 'dist/app/browser/ngsw-worker.js'));
  return true;
}

/**
 * Has the browser work out the hashes by which the service worker checks what it takes in. Its own, in JavaScript, does 3 to 6 MB a second,
 * and whatever the page asks for meanwhile waits: the first picture of a first visit for 6 to 10 s.
 * @param path the built worker
 * @throws Error where the worker is not the one that this was written for
 */
function hashByBrowser(path) {
  const parts = readFileSync(path, 'utf8').split(SLOW);
  if (parts.length !== 3) throw new Error(`${path}: its hashes are no longer made where scripts/build-app.mjs expects them.`);
  writeFileSync(path, parts.join(QUICK) + OWN);
}
