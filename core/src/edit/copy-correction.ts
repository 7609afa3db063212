import type { Correction } from '../correction/schema';
import { isEased } from '../ease/ease-map';
import { PlumbError } from '../picture/failure';
import { appliedTo } from './apply-correction';

/** What can be copied from one picture to others. */
export type Copyable = 'lens' | 'stance' | 'ease' | 'crop' | 'deliveries';

/**
 * One picture's correction with parts of another's, which are scaled where the sizes differ. A stance is copied as it is used, as set by
 * hand: lines of the picture itself stay, but no longer decide. The picture's own focal length stays, unless the lens is copied.
 *
 * @throws PlumbError for pictures of other proportions, where no position would mean the same thing, and for a crop around a panel where there
 *   is none
 */
export function copiedTo(to: Correction, from: Correction, what: readonly Copyable[]): Correction {
  const ticks = what.includes('deliveries') ? deliveriesFor(to, from) : to.deliveries;
  if (what.every((part) => part === 'deliveries')) return { ...to, deliveries: ticks };
  const source = appliedTo(from, to.picture).correction;
  let next = to;
  if (what.includes('lens')) next = { ...next, lens: source.lens, camera: { ...source.camera, flat: next.camera.flat } };
  if (what.includes('stance'))
    next = {
      ...next,
      camera: { ...next.camera, flat: source.camera.flat },
      stance: { ...source.stance, from: 'hand' },
    };
  if (what.includes('ease')) next = { ...next, ease: source.ease };
  if (what.includes('crop')) {
    if (source.crop.around === 'panel' && !to.panels.some((p) => p.used))
      throw new PlumbError('no-panel', `${to.picture.name} has no panel to crop to.`, 'It was left as it is.');
    next = { ...next, crop: source.crop };
  }
  return { ...next, deliveries: ticks };
}

/** Every picture can have every delivery; crops set by hand for them go along only where they fit. */
function deliveriesFor(to: Correction, from: Correction): Correction['deliveries'] {
  try {
    return appliedTo(from, to.picture).correction.deliveries;
  } catch (error) {
    if (!(error instanceof PlumbError)) throw error;
    return from.deliveries.map(({ id }) => ({ id }));
  }
}

/** Whether nobody has set anything for a picture but what its camera says and a profile that was found. */
export function isUntouched(correction: Correction): boolean {
  const { references, panels, measures, guides, stance, ease, crop, lens } = correction;
  const { roll, tilt, swing } = stance.adjust;
  const moved =
    Math.hypot(stance.roll, stance.tilt, stance.swing, roll, tilt, swing) > 0 || stance.quarterTurns !== 0 || stance.flipX || stance.flipY;
  const shaped = stance.aspect !== 1 || stance.shear !== 0 || stance.pull.scale !== 1 || Math.hypot(...stance.pull.shift) > 0;
  const cropped =
    crop.rect !== undefined ||
    crop.edges !== 'clear' ||
    !(crop.around === 'picture' || crop.around === 'lines') ||
    crop.ratio !== 'as-taken';
  const bent = lens.edges.length > 0 || lens.from === 'hand' || isEased(correction);
  const marked = [references, panels, measures, guides, ease.rings, ease.shims, crop.keep].some((marks) => marks.length > 0);
  return !marked && !moved && !shaped && !cropped && !bent;
}
