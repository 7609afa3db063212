import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,codecs,cli,server,demo}/src/**/*.test.ts', 'core/test/**/*.test.ts', 'app/src/**/*.test.ts'],
    testTimeout: 300_000,
    hookTimeout: 300_000,
    pool: 'forks',
    // all cores: left alone it keeps one for a watcher
    maxWorkers: '100%',
  },
});
