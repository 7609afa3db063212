/* Everything, on a fresh machine too: set-up, then build, lint, types, format and doors beside each other, unit tests, interface tests. Ends with one line of counts. */
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { buildApp } from './build-app.mjs';
import { ensureTestMaterial, ensureDependencies, root, run } from './setup.mjs';
import { runSteps, STATIC_STEPS } from './steps.mjs';

ensureDependencies();
ensureTestMaterial();

let [passed, failed] = [0, 0];
const count = (ok, name) => {
  if (ok) passed += 1;
  else failed += 1;
  process.stdout.write(`${ok ? 'passed' : 'FAILED'}: ${name}\n`);
};
const reports = join(root, '.cache/reports');
mkdirSync(reports, { recursive: true });
const fresh = (name) => {
  const file = join(reports, name);
  rmSync(file, { force: true });
  return file;
};
const read = (file) => {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
};

let built = false;
const build = {
  name: 'build',
  run: async () => (built = await buildApp()),
};
await runSteps([build, ...STATIC_STEPS], count);

const unitFile = fresh('unit.json');
const unitOk = run('vitest', ['run', '--reporter', 'default', '--reporter', 'json', '--outputFile.json', unitFile]);
const unit = read(unitFile);
passed += unit?.numPassedTests ?? 0;
failed += unit ? unit.numFailedTests : 1;
if (!unitOk && (unit?.numFailedTests ?? 0) === 0) count(false, 'unit tests');

if (built) {
  const e2eFile = fresh('e2e.json');
  const e2eOk = run('playwright', ['test', '--config', 'e2e/playwright.config.ts'], {
    env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: e2eFile },
  });
  const e2e = read(e2eFile);
  passed += e2e?.stats.expected ?? 0;
  failed += e2e ? e2e.stats.unexpected + e2e.stats.flaky : 1;
  if (!e2eOk && e2e && e2e.stats.unexpected + e2e.stats.flaky === 0) count(false, 'interface tests');
}

process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit(failed > 0 ? 1 : 0);
