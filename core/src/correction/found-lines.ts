import { nextReferenceId } from './reference-ids';
import type { Correction, Reference, Stance } from './schema';

/** A line that was found in a picture, before it is a reference. */
export type FoundLine = Pick<Reference, 'kind' | 'a' | 'b' | 'placedPx'>;

/**
 * The document with found lines as its references, not solved yet: what a hand drew is set aside and stays, what was found before goes.
 *
 * @param flat whether the picture is a sheet
 */
export function withLinesFound(correction: Correction, found: readonly FoundLine[], may: Stance['may'], flat: boolean): Correction {
  const references: Reference[] = correction.references.filter(({ by }) => by !== 'found').map((r) => ({ ...r, used: false }));
  for (const line of found) references.push({ id: nextReferenceId(references), statedAngle: 0, used: true, by: 'found', ...line });
  return {
    ...correction,
    references,
    camera: flat ? { ...correction.camera, flat } : correction.camera,
    panels: correction.panels.map((panel) => ({ ...panel, used: false })),
    stance: { ...correction.stance, from: 'references', may, front: flat ? 'sheet' : 'wall' },
    // a panel that has no say is nothing to crop to
    crop: correction.crop.around === 'panel' ? { ...correction.crop, around: 'lines' } : correction.crop,
  };
}
