/* Builds the application into dist/app and the command line into dist/cli. */
import { ensureDependencies, run } from './setup.mjs';

ensureDependencies();
const { bundleCli } = await import('./bundle-cli.mjs');
await bundleCli();
process.exit(run('ng', ['build'], { env: { ...process.env, NG_CLI_ANALYTICS: 'false' } }) ? 0 : 1);
