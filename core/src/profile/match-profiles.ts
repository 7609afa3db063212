import { placeOf, turnsAgainstFrame, type FocalPlace, type LensFacts } from './lens-for-picture';
import type { LensProfile } from './schema';

/** How a profile fits a picture. */
export interface ProfileMatch {
  readonly profile: LensProfile;
  readonly camera: boolean;
  readonly lens: boolean;
  readonly focal: FocalPlace;
  /** Whether the picture has the proportions of the profile's frame. */
  readonly frame: boolean;
  /** Camera, lens and focal length all match: it may be switched on unasked. */
  readonly sure: boolean;
}

/** Strings of metadata differ in case, spaces and commas between programs that wrote them. */
const plain = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[\s,;_-]+/g, ' ')
    .trim();

const names = (list: readonly string[], told: string | null): boolean => told !== null && list.some((name) => plain(name) === plain(told));

/** How every profile fits a picture, the best first. */
export function matchProfiles(profiles: readonly LensProfile[], facts: LensFacts): ProfileMatch[] {
  const matches = profiles.map((profile): ProfileMatch => {
    const camera = names(profile.cameras, facts.camera);
    // a camera whose lens is built in writes no lens, and its profile then names none
    const lens = names(profile.lenses, facts.lens) || (facts.lens === null && profile.lenses.length === 0 && camera);
    const focal = placeOf(profile, facts.focalMm);
    const frame = turnsAgainstFrame(profile.frame, facts) !== null;
    return { profile, camera, lens, focal, frame, sure: frame && camera && lens && (focal === 'on' || focal === 'between') };
  });
  const score = (m: ProfileMatch): number =>
    (m.frame ? 8 : 0) + (m.lens ? 4 : 0) + (m.camera ? 2 : 0) + (m.focal === 'on' || m.focal === 'between' ? 1 : 0);
  return matches.sort((p, q) => score(q) - score(p) || p.profile.name.localeCompare(q.profile.name));
}
