import { at, drag, toolBench } from '../../../../testing/tool-bench';
import { asSheet, withFoundPieces, type Correction } from '@able-plumb/core';
import { expect, it } from 'vitest';
import { cut } from './cut';

/** A sheet of one print, which the bench marks as a panel. */
function sheet(c: Correction): Correction {
  const found = withFoundPieces(
    c,
    [
      {
        corners: [
          [100, 100],
          [500, 100],
          [500, 300],
          [100, 300],
        ],
        how: 'seen',
      },
    ],
    { taken: 'scanned' },
  );
  return { ...found, panels: asSheet(found).panels };
}

it('a piece becomes two along the line drawn across it; a line beside it changes nothing', async () => {
  const bench = toolBench({ inHand: 'cut', sheet: true, document: sheet });
  drag(bench, cut, at(20, 50), at(20, 350));
  await bench.settle();
  expect([bench.past.length, bench.inHand()]).toEqual([0, null]);
  bench.inHand.set('cut');
  drag(bench, cut, at(300, 60), at(300, 340));
  await bench.settle();
  expect(bench.committed().sheet?.pieces.length).toBe(2);
});
