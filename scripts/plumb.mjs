/* The command line, set up and bundled when its sources have changed. */
import { ensureDependencies } from './setup.mjs';

ensureDependencies();
const { bundleCli } = await import('./bundle-cli.mjs');
await import(await bundleCli());
