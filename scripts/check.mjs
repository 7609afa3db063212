/* The quick inner loop: format, lint, types, doors and unit tests; no build, no browser. */
import { ensureDependencies, run } from './setup.mjs';
import { runSteps, STATIC_STEPS } from './steps.mjs';

ensureDependencies();
const failed = [];
await runSteps(STATIC_STEPS, (held, name) => !held && failed.push(name));
if (!run('vitest', ['run'])) failed.push('unit tests');
if (failed.length > 0) process.stderr.write(`Failed: ${failed.join(', ')}\n`);
process.exit(failed.length > 0 ? 1 : 0);
