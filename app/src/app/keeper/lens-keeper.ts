import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  lensFactsOf,
  lensForPicture,
  matchProfiles,
  readLensFile,
  withProfile,
  type Correction,
  type LensProfile,
  type ProfileMatch,
} from '@able-plumb/core';
import { Shelf } from '../shelf/shelf';
import { shelfSentence } from '../shelf/shelf-sentence';
import type { Picture } from '../state/model';
import { selectProfiles } from '../state/selectors';
import { shelfActions } from '../state/shelf.actions';
import { TabChannel } from './tab-channel';

/** What is known of a picture that its lens can be found by. */
export type LensSeeker = Pick<Picture, 'width' | 'height' | 'camera' | 'lens' | 'focalMm' | 'orientation'>;

/** Keeps the lens profiles, and finds the one for a picture. */
@Injectable({ providedIn: 'root' })
export class LensKeeper {
  private readonly shelf = inject(Shelf);
  private readonly store = inject(Store);
  private readonly tabs = inject(TabChannel);
  readonly profiles = this.store.selectSignal(selectProfiles);

  /** How every profile fits a picture, the best first. */
  matches(picture: LensSeeker): readonly ProfileMatch[] {
    return matchProfiles(this.profiles(), lensFactsOf(picture));
  }

  /** A correction whose lens nobody has set, with the profile that fits its picture in every respect; the same where there is none. */
  withFound(correction: Correction, picture: LensSeeker): Correction {
    const { lens, camera } = correction;
    if (camera.flat || lens.from !== 'nobody' || lens.model.kind !== 'none') return correction;
    const best = this.matches(picture)[0];
    return best?.sure ? withProfile(correction, best.profile.id, lensForPicture(best.profile, lensFactsOf(picture))) : correction;
  }

  /** A profile that came from a file, under an id of its own where another one has that id: what is in the cabinet is not replaced. */
  private besides(profile: LensProfile): LensProfile {
    const known = this.profiles().find((p) => p.id === profile.id);
    return !known || JSON.stringify(known) === JSON.stringify(profile)
      ? profile
      : { ...profile, id: crypto.randomUUID(), name: `${profile.name} (imported)` };
  }

  /** Profiles on their way to the shelf: what comes after them sees them there. */
  private onTheWay: Promise<unknown> = Promise.resolve();

  /** @throws Error with a sentence where the shelf does not take it */
  save(profile: LensProfile): Promise<void> {
    const saved = this.onTheWay.then(() => this.write(profile));
    this.onTheWay = saved.catch(() => undefined);
    return saved;
  }

  private async write(profile: LensProfile): Promise<void> {
    try {
      await this.shelf.saveProfile(profile);
    } catch (error) {
      throw new Error(shelfSentence(error));
    }
    this.store.dispatch(shelfActions.profileSaved({ profile }));
    this.tabs.tell({ kind: 'profiles' });
  }

  async remove(id: string): Promise<void> {
    await this.shelf.removeProfile(id);
    this.store.dispatch(shelfActions.profileRemoved({ id }));
    this.tabs.tell({ kind: 'profiles' });
  }

  /** Takes lens files in one after the other; one that is refused stops none of the others. */
  async addFiles(
    files: readonly { readonly name: string; readonly file: Blob }[],
  ): Promise<{ readonly added: readonly LensProfile[]; readonly refused: readonly string[] }> {
    const added: LensProfile[] = [];
    const refused: string[] = [];
    for (const { name, file } of files) {
      try {
        const read = await readLensFile(await file.text(), name, crypto.randomUUID());
        // a change that is not there yet would be replaced
        await this.onTheWay;
        const profile = this.besides(read);
        await this.save(profile);
        added.push(profile);
      } catch (error) {
        refused.push((error as Error).message);
      }
    }
    return { added, refused };
  }
}
