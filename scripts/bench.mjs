/* Sets up, builds what is measured, and runs the bench; names of its parts as arguments. */
import { buildApp } from './build-app.mjs';
import { ensureBenchMaterial, ensureDependencies, fail, run } from './setup.mjs';

ensureDependencies();
const asked = process.argv.slice(2);
const browser = asked.length === 0 || asked.some((part) => part === 'browser' || part === 'many');
ensureBenchMaterial(browser);
if (browser) {
  process.stderr.write('Building the application ...\n');
  if (!(await buildApp())) fail('The build failed; the messages above say why.');
}
process.exit(run('tsx', ['bench/src/bench.ts', ...asked]) ? 0 : 1);
