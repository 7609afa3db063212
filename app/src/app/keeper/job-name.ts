import type { Picture } from '../state/model';

/**
 * A name that tells a new job apart: the folder that its files came from, or the day its first picture was taken; where that is taken, with how many
 * pictures it began with, which more may follow.
 * @param taken names that other jobs have
 */
export function jobName(
  folder: string | null,
  pictures: readonly Pick<Picture, 'takenAt'>[],
  taken: readonly string[],
  now = new Date(),
): string {
  const first = pictures
    .map((p) => p.takenAt && new Date(p.takenAt.replace(/^(\d+):(\d+):/, '$1-$2-')))
    .find((date) => date && !Number.isNaN(date.getTime()));
  const day = (first || now).toLocaleDateString(undefined, { day: 'numeric', month: 'long', year: 'numeric' });
  const plain = folder ?? day;
  if (!taken.includes(plain)) return plain;
  const counted = `${plain}, ${pictures.length} ${pictures.length === 1 ? 'picture' : 'pictures'}`;
  for (let number = 2, tried = counted; ; number += 1) {
    if (!taken.includes(tried)) return tried;
    tried = `${counted} (${number})`;
  }
}
