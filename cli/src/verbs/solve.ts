import { composeWarp, readingsOf, solveCorrection } from '@able-plumb/core';
import { readCorrection } from '../files';
import { parseArguments, requirePositions } from '../usage';

/** `solve CORRECTION`: the stance from the references, and how true everything is afterwards. */
export async function solve(args: readonly string[]): Promise<unknown> {
  const [path] = requirePositions(parseArguments(args, []), 1, 'solve CORRECTION');
  const before = await readCorrection(path as string);
  const { correction, solution, focal } = solveCorrection(before, before.picture);
  // the report judges the geometry; a crop that cannot be had must not hide it
  const readings = readingsOf(correction, composeWarp({ ...correction, crop: { ...correction.crop, edges: 'keep' } }, correction.picture));
  const movements = ['roll', 'tilt', 'swing'] as const;
  return {
    ...correction,
    report: {
      references: readings.references.map((r) => ({
        id: r.id,
        kind: r.kind,
        used: r.used,
        [r.kind === 'plumb' ? 'leanBefore' : 'slopeBefore']: r.beforeDeg,
        [r.kind === 'plumb' ? 'leanAfter' : 'slopeAfter']: r.afterDeg,
        residualPx: solution?.residualPx.get(r.id) ?? null,
      })),
      sd: solution?.sd ?? { roll: null, tilt: null, swing: null },
      focal: focal && (focal.found === null ? { focalPx: null, why: focal.why } : { focalPx: focal.found, sdPercent: focal.sd * 100 }),
      centre: solution?.centre ?? null,
      disagreeing: [...(solution?.disagreeing ?? [])],
      panels: readings.panels.map(({ id, used, ratio, ratioFrom, ratioSd, trouble }) => ({ id, used, ratio, ratioFrom, ratioSd, trouble })),
      measures: readings.measures.map(({ id, mm }) => ({ id, mm })),
      undetermined: movements.filter((movement) => !solution?.determined.includes(movement) || solution.sd[movement] === null),
    },
  };
}
