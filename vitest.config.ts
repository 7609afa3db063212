import { defineConfig } from 'vitest/config';

const files = (folders: string): string => `${folders}/src/**/*.test.ts`;

export default defineConfig({
  test: {
    testTimeout: 300_000,
    hookTimeout: 300_000,
    pool: 'forks',
    // all cores: left alone it keeps one for a watcher
    maxWorkers: '100%',
    projects: [
      // nothing of the computation is kept but tables: its files share one process, which reads it once
      { extends: true, test: { name: 'core', include: [files('core')], isolate: false } },
      { extends: true, test: { name: 'rest', include: [files('{codecs,cli,server,demo,app}')] } },
    ],
  },
});
