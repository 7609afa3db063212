/* What is changed of Angular's service worker after the build. */
import { readFileSync, writeFileSync } from 'node:fs';

const SLOW = 'sha1Binary(await response.clone().arrayBuffer())';
const QUICK = 'await sha1OfBrowser(await response.clone().arrayBuffer())';
const OWN = `
async function sha1OfBrowser(bytes) {
  return Array.from(new Uint8Array(await crypto.subtle.digest('SHA-1', bytes)), (b) => b.toString(16).padStart(2, '0')).join('');
}
`;

/**
 * Has the browser work out the hashes by which the service worker checks what it takes in. Its own, in JavaScript, does 3 to 6 MB a second,
 * and whatever the page asks for meanwhile waits: the first picture of a first visit for 6 to 10 s.
 * @param path the built worker
 * @throws Error where the worker is not the one that this was written for
 */
export function hashByBrowser(path) {
  const parts = readFileSync(path, 'utf8').split(SLOW);
  if (parts.length !== 3) throw new Error(`${path}: its hashes are no longer made where scripts/service-worker.mjs expects them.`);
  writeFileSync(path, parts.join(QUICK) + OWN);
}
