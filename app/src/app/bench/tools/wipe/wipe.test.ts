import { at, dragHandle, handleAt, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { wipe } from './wipe';

it('the wipe is taken anywhere along its line, stays within the stage, and goes back where it is cancelled', () => {
  const bench = toolBench({ step: 'check' });
  const gesture = dragHandle(bench, wipe, at(306, 20), at(450, 90));
  expect(bench.context.wipe()).toBe(0.75);
  gesture?.move(at(900, 90));
  expect(bench.context.wipe()).toBe(1);
  gesture?.cancel();
  expect(bench.context.wipe()).toBe(0.5);
  expect(() => handleAt(bench, wipe, at(200, 20))).toThrow();
  expect(() => handleAt(toolBench(), wipe, at(300, 20))).toThrow();
});
