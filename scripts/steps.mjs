/* The checks, each by name, in the order in which they run. */
import { spawnSync } from 'node:child_process';
import { root, run } from './setup.mjs';

const PROJECTS = ['core', 'codecs', 'cli', 'server', 'demo', 'bench', 'e2e'];

/** Checks that need no tests: true when they hold. */
export const STATIC_STEPS = [
  { name: 'format', run: () => run('prettier', ['--check', '--log-level', 'warn', '.']) },
  { name: 'kernel', run: () => spawnSync('node', ['kernel/build.mjs', '--check'], { cwd: root, stdio: 'inherit' }).status === 0 },
  { name: 'lint', run: () => run('eslint', ['--max-warnings', '0', '.']) },
  {
    name: 'types',
    run: () =>
      PROJECTS.map((project) => run('tsc', ['-p', project])).every(Boolean) &&
      run('tsc', ['-p', 'core/tsconfig.test.json']) &&
      run('tsc', ['-p', 'app/tsconfig.worker.json', '--noEmit']),
  },
  {
    name: 'doors',
    run: () =>
      run('depcruise', [
        '--config',
        '.dependency-cruiser.mjs',
        '--output-type',
        'err-long',
        'core',
        'codecs',
        'app',
        'server',
        'cli',
        'demo',
        'bench',
        'e2e',
      ]),
  },
];
