import type { Reference } from './schema';

/** Next free reference id: r1, r2, ... */
export function nextReferenceId(references: readonly Reference[]): string {
  const largest = references.reduce((most, r) => Math.max(most, Number(/^r(\d+)$/.exec(r.id)?.[1] ?? 0)), 0);
  return `r${largest + 1}`;
}
