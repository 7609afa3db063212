import { describe, expect, it } from 'vitest';
import { jobName } from './job-name';

describe('the name of a new job', () => {
  const now = new Date(2026, 3, 20);
  const day = (date: Date): string => date.toLocaleDateString(undefined, { day: 'numeric', month: 'long', year: 'numeric' });

  it('is the folder, else the day the first dated picture was taken, else today', () => {
    const taken = { takenAt: '2026:04:14 10:41:50' };
    expect(jobName('pump hall', [taken, taken], [], now)).toBe('pump hall');
    expect(jobName(null, [{ takenAt: null }, taken], [], now)).toBe(day(new Date(2026, 3, 14)));
    for (const takenAt of [null, '', '    :  :     :  :  ', '0000:00:00 00:00:00'])
      expect(jobName(null, [{ takenAt }], [], now)).toBe(day(now));
  });

  it('tells it apart from those that are there', () => {
    const one = [{ takenAt: null }];
    expect(jobName('hall', one, ['hall'], now)).toBe('hall, 1 picture');
    expect(jobName('hall', [...one, ...one], ['hall', 'hall, 1 picture'], now)).toBe('hall, 2 pictures');
    expect(jobName('hall', one, ['hall', 'hall, 1 picture', 'hall, 1 picture (2)'], now)).toBe('hall, 1 picture (3)');
  });
});
