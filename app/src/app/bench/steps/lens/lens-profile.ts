import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { RouterLink } from '@angular/router';
import {
  lensFactsOf,
  lensForPicture,
  toldFocal,
  withoutLens,
  withProfile,
  type FocalPlace,
  type LensProfile,
  type ProfileMatch,
} from '@able-plumb/core';
import { LensKeeper } from '../../../keeper/lens-keeper';
import { Icon } from '../../../ui/icon';
import { PictureSession } from '../../session/picture-session';

/** The profile part of the Lens step: which one, why it matched, and another one. */
@Component({
  selector: 'ap-lens-profile',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatMenu, MatMenuItem, MatMenuTrigger, RouterLink],
  templateUrl: './lens-profile.html',
  styleUrl: './lens.scss',
  host: { class: 'part' },
})
export class LensProfilePart {
  private readonly session = inject(PictureSession);
  private readonly lenses = inject(LensKeeper);

  private readonly matches = computed<readonly ProfileMatch[]>(() => {
    const picture = this.session.picture();
    return picture ? this.lenses.matches(picture) : [];
  });

  protected readonly used = computed<LensProfile | null>(() => {
    const id = this.session.correction()?.lens.profile;
    return this.lenses.profiles().find((p) => p.id === id) ?? null;
  });

  protected readonly rows = computed(() =>
    this.matches().map((m) => ({ id: m.profile.id, name: m.profile.name, fits: m.frame, why: shortWhy(m) })),
  );

  /** Why the profile in use was found, or what could be used. */
  protected readonly words = computed<{ readonly text: string; readonly trouble: boolean; readonly offer: string | null } | null>(() => {
    const correction = this.session.correction();
    const picture = this.session.picture();
    if (!correction || !picture) return null;
    const used = this.used();
    const match = this.matches().find((m) => m.profile.id === used?.id);
    if (used && match) {
      const text = match.sure
        ? `Camera, lens and ${picture.focalMm} mm match${match.focal === 'between' ? ': between two of its rows' : ''}. Switched on by itself.`
        : longWhy(match, picture.focalMm ?? null);
      return { text, trouble: !match.sure && match.focal === 'held', offer: null };
    }
    if (correction.lens.profile !== null)
      return { text: 'Its profile is no longer in the cabinet; the lens stays as it was set.', trouble: false, offer: null };
    const best = this.matches()[0];
    const told = picture.lens ?? (picture.camera ? `the lens of ${picture.camera}` : null);
    if (best?.frame && (best.lens || best.camera) && correction.lens.model.kind === 'none')
      return { text: `${best.profile.name}: ${longWhy(best, picture.focalMm ?? null)}`, trouble: false, offer: best.profile.id };
    const missing = told ? `No profile for ${told}` : 'The metadata name no lens';
    return { text: `${missing}. Choose one, trace edges that are straight in reality, or bend by hand.`, trouble: false, offer: null };
  });

  protected use(id: string): void {
    const picture = this.session.picture();
    const profile = this.lenses.profiles().find((p) => p.id === id);
    if (picture && profile) this.session.commit((c) => withProfile(c, id, lensForPicture(profile, lensFactsOf(picture))));
  }

  protected none(): void {
    const focal35 = this.session.picture()?.focal35 ?? null;
    this.session.commit((c) => withoutLens(c, toldFocal(focal35, c.picture), 'hand'));
  }
}

const FOCAL_WHY: Readonly<Record<FocalPlace, string>> = {
  on: '',
  between: '',
  held: 'other focal length',
  unknown: 'focal length unknown',
};

function shortWhy({ frame, camera, lens, focal, sure }: ProfileMatch): string {
  if (!frame) return 'other proportions';
  if (sure) return 'matches';
  return [lens ? '' : 'other lens', camera ? '' : 'other camera', FOCAL_WHY[focal]].filter(Boolean).join(', ');
}

function longWhy({ camera, lens, focal, profile }: ProfileMatch, focalMm: number | null): string {
  const made =
    lens && camera
      ? 'made for this lens and camera'
      : lens
        ? 'made for this lens on another camera'
        : camera
          ? 'made for this camera with another lens'
          : 'chosen by hand: made for another lens and camera';
  const focals = profile.rows.flatMap((row) => row.focalMm ?? []);
  const range = focals.length > 0 ? `${Math.min(...focals)} to ${Math.max(...focals)} mm` : '';
  if (focal === 'held' && focalMm !== null)
    return `${made}, but for ${focals.length > 1 ? range : `${focals[0]} mm`}: at ${focalMm} mm its nearest row is held.`;
  return focal === 'unknown' ? `${made}; the metadata do not say at which focal length.` : `${made}.`;
}
