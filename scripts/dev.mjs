/* Rebuilds on change and serves; the page says when the newer version is there. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureDependencies, root } from './setup.mjs';

ensureDependencies();
const bin = (name) => join(root, 'node_modules/.bin', name);
const children = [
  spawn(bin('ng'), ['build', '--watch', '--configuration', '', '--output-hashing', 'none', '--source-map'], {
    cwd: root,
    stdio: 'inherit',
  }),
  spawn(bin('tsx'), ['watch', 'server/src/serve.ts'], { cwd: root, stdio: 'inherit' }),
];
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => children.forEach((child) => child.kill(signal)));
