/* Builds the application into dist/app and the command line into dist/cli. */
import { buildApp } from './build-app.mjs';
import { ensureDependencies } from './setup.mjs';

ensureDependencies();
const { bundleCli } = await import('./bundle-cli.mjs');
await bundleCli();
process.exit((await buildApp()) ? 0 : 1);
