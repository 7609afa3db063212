/* The checks that need no tests, each by name. */
import { spawnSync } from 'node:child_process';
import { root, runBeside } from './setup.mjs';

const ALL = ['core', 'codecs', 'app', 'server', 'cli', 'demo', 'bench', 'e2e'];
/** The computation by itself, which knows no platform; everything that runs in Node.js, as one program; the workers. The build checks the application. */
const PROJECTS = [['core'], ['tsconfig.node.json'], ['app/tsconfig.worker.json', '--noEmit']];

/** The longest first. */
export const STATIC_STEPS = [
  { name: 'lint', run: () => runBeside('eslint', ['--max-warnings', '0', '.']) },
  {
    name: 'types',
    run: async () => {
      let held = true;
      for (const project of PROJECTS) held = (await runBeside('tsc', ['-p', ...project])) && held;
      return held;
    },
  },
  { name: 'format', run: () => runBeside('prettier', ['--check', '--log-level', 'warn', '.']) },
  { name: 'doors', run: () => runBeside('depcruise', ['--config', '.dependency-cruiser.mjs', '--output-type', 'err-long', ...ALL]) },
  {
    name: 'kernel',
    run: async () => spawnSync('node', ['kernel/build.mjs', '--check'], { cwd: root, stdio: 'inherit' }).status === 0,
  },
];

/** Runs steps, two at a time; each is told as it ends: whether it held, and its name. */
export async function runSteps(steps, told) {
  const waiting = [...steps];
  const lane = async () => {
    for (let step = waiting.shift(); step; step = waiting.shift()) told(await step.run(), step.name);
  };
  await Promise.all([lane(), lane()]);
}
