import {
  attitudeErrors,
  CASES,
  focalRanges,
  lengthErrors,
  panelAttitudeErrors,
  panelErrors,
  scatterOf,
} from '../../core/tools/deviation-cases';
import type { Rows } from './timing';

const SEED = 3003;
const SCENES = 400;

/** How errors scatter in their own stated deviations: root mean square, and the share beyond two, over random scenes whose truth is known. */
export function deviationRows(rows: Rows): void {
  const put = (name: string, errors: readonly number[]): void => {
    const { rms, beyondTwo, most } = scatterOf(errors);
    rows[`deviations: ${name}, rms`] = rms;
    rows[`deviations: ${name}, % beyond two`] = beyondTwo * 100;
    rows[`deviations: ${name}, the greatest`] = most;
  };
  for (const [name, scene] of Object.entries(CASES)) put(name, attitudeErrors(scene, SEED, SCENES));
  for (const focal of ['known', 'metadata', 'assumed'] as const) put(`panel ratio, length ${focal}`, panelErrors(focal, SEED, SCENES));
  for (const focal of ['known', 'metadata', 'assumed'] as const)
    put(`attitude by a panel, length ${focal}`, panelAttitudeErrors(focal, SEED, SCENES));
  put('lengths on a panel', lengthErrors(SEED, SCENES));
  const { told, within, asNear } = focalRanges(SEED, SCENES);
  rows['focal length by four and four lines: % told'] = told * 100;
  rows['focal length by four and four lines: % within its range'] = within * 100;
  rows['focal length by four and four lines: stance error over that with the length known'] = asNear;
}
