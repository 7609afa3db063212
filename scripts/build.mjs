/* Builds the application into dist/app and the command line into dist/cli. */
import { ensureDependencies, root, run } from './setup.mjs';
import { hashByBrowser } from './service-worker.mjs';

ensureDependencies();
const { bundleCli } = await import('./bundle-cli.mjs');
await bundleCli();
if (!run('ng', ['build'], { env: { ...process.env, NG_CLI_ANALYTICS: 'false' } })) process.exit(1);
hashByBrowser(`${root}/dist/app/browser/ngsw-worker.js`);
