/* Builds the application into dist/app. */
import { ensureDependencies, run } from './setup.mjs';

ensureDependencies();
process.exit(run('ng', ['build'], { env: { ...process.env, NG_CLI_ANALYTICS: 'false' } }) ? 0 : 1);
