/* Sets up, builds, and serves the application with the demo job on loopback; PORT is honoured. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { buildApp } from './build-app.mjs';
import { ensureDependencies, fail, root } from './setup.mjs';

ensureDependencies();
process.stderr.write('Building the application ...\n');
if (!(await buildApp())) fail('The build failed; the messages above say why.');
const server = spawn(join(root, 'node_modules/.bin/tsx'), ['server/src/serve.ts', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
