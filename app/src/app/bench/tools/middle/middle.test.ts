import { at, drag, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { buttonsOf, TOOL_KEYS } from '..';
import { middle } from './middle';

it('says how far a click lies from the middle, and has its button and its key', () => {
  const bench = toolBench({ inHand: 'middle' });
  drag(bench, middle, at(330, 240));
  expect(bench.said).toEqual(['50 px from the middle.']);
  expect(buttonsOf('stance').map(({ id }) => id)).toContain('middle');
  expect(TOOL_KEYS.some(({ action }) => action === 'middle')).toBe(true);
});
