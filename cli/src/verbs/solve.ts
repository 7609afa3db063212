import { composeWarp, edgeCalibrationOf, readingsOf, solveCorrection, verdictInWords, withLensFromEdges } from '@able-plumb/core';
import { readCorrection } from '../correction-file';
import { parseArguments, requirePositions } from '../usage';

/** `solve CORRECTION`: the lens from traced edges where none is set, the stance from the references, and how true everything is afterwards. */
export async function solve(args: readonly string[]): Promise<unknown> {
  const [path] = requirePositions(parseArguments(args, []), 1, 'solve CORRECTION');
  const read = await readCorrection(path as string);
  const { lens } = read;
  const asksEdges = lens.edges.length > 0 && lens.model.kind === 'none';
  const before = asksEdges ? withLensFromEdges(read) : read;
  const calibration = asksEdges ? edgeCalibrationOf(read) : null;
  const { correction, solution, focal } = solveCorrection(before, before.picture);
  // the report judges the geometry; a crop that cannot be had must not hide it
  const readings = readingsOf(correction, composeWarp({ ...correction, crop: { ...correction.crop, edges: 'keep' } }, correction.picture));
  const movements = ['roll', 'tilt', 'swing'] as const;
  const { verdict, focalSaid } = readings;
  return {
    ...correction,
    report: {
      references: readings.references.map((r) => ({
        id: r.id,
        kind: r.kind,
        used: r.used,
        counts: r.counts,
        [r.kind === 'plumb' ? 'leanBefore' : 'slopeBefore']: r.beforeDeg,
        [r.kind === 'plumb' ? 'leanAfter' : 'slopeAfter']: r.afterDeg,
        residualPx: solution?.residualPx.get(r.id) ?? null,
      })),
      verdict: {
        state: verdict.state,
        deg: verdict.deg,
        sureDeg: verdict.sureDeg,
        leftDeg: verdict.leftDeg,
        line: verdict.line?.id ?? null,
        words: Object.values(verdictInWords(verdict, correction))
          .filter((w) => typeof w === 'string' && w !== '')
          .join('. '),
      },
      sd: readings.sd,
      mostlyBy: readings.mostlyBy,
      focal: focal && (focal.found === null ? { focalPx: null, why: focal.why } : { focalPx: focal.found, sdPercent: focal.sd * 100 }),
      focalSaid: focalSaid && {
        focalPx: focalSaid.best,
        lowPx: focalSaid.low,
        highPx: focalSaid.high,
        speaksAgainst: focalSaid.speaksAgainst,
      },
      centre: solution?.centre ?? null,
      disagreeing: [...(solution?.disagreeing.keys() ?? [])],
      remedies: [...(solution?.disagreeing ?? [])].map(([id, remedy]) => ({ id, ...remedy })),
      panels: readings.panels.map(({ id, used, ratio, ratioFrom, ratioSd, trouble }) => ({ id, used, ratio, ratioFrom, ratioSd, trouble })),
      lens: calibration && (calibration.found ?? { model: null, why: calibration.why }),
      edges: readings.edges.map(({ id, beforePx, afterPx }) => ({ id, bowBefore: beforePx, bowAfter: afterPx })),
      measures: readings.measures.map(({ id, mm, sdMm }) => ({ id, mm, sdMm })),
      undetermined: movements.filter((movement) => readings.sd[movement] === null),
    },
  };
}
