import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  fitOfFollowed,
  likelyBendOf,
  placedByHand,
  withReference,
  type EdgeFit,
  type FollowedEdge,
  type PlacedByHand,
  type Point,
  type View,
} from '@able-plumb/core';
import { jobsFeature } from '../../state/jobs.reducer';
import { shelfActions } from '../../state/shelf.actions';
import { StageClient } from '../../work/stage-client';
import { lyingOn, placedOnEdge } from '../tools/kit/settled-on';
import type { ToolMagnet } from '../tools/tool-context';
import { Hand } from './hand';
import { PictureSession } from './picture-session';
import { StageView } from './stage-view';

/** What was found along a line when it was last placed. */
export interface Snapped {
  readonly id: string;
  /** Straight edges near it, and which of them it lies on. */
  readonly fits: readonly EdgeFit[];
  readonly index: number;
  /** The edge as it runs from end to end, which may be bent; null while it is not known. */
  readonly course: FollowedEdge | null;
  /** Share of the line along which there is the edge; it settled on none where that is less than half. */
  readonly share: number;
}

/** How far the magnet reaches: a few screen px, within bounds in picture px. */
const REACH_SCREEN_PX = 6;
const LEAST_REACH_PX = 3;
const MOST_REACH_PX = 80;
/** A bent edge is one edge when its bow is surer than this, px or share of it. */
const SURE_BOW_PX = 1;
const SURE_BOW_SHARE = 0.25;

const reachOf = (view: View): number => Math.min(MOST_REACH_PX, Math.max(LEAST_REACH_PX, REACH_SCREEN_PX / view.scale));

/** Real edges and corners near what was drawn in the open picture. */
@Injectable()
export class Magnet implements ToolMagnet {
  private readonly store = inject(Store);
  private readonly session = inject(PictureSession);
  private readonly hand = inject(Hand);
  private readonly stageView = inject(StageView);
  private readonly pictures = inject(StageClient);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  /** Held down, lines stay where they are drawn. */
  readonly letGo = signal(false);
  /** Edges found for a line when it was last placed, and which of them it lies on. */
  readonly snapped = signal<Snapped | null>(null);

  holds(): boolean {
    return this.settings().magnet && !this.letGo();
  }

  /** How far the magnet reaches now, picture px; null while it does not hold. */
  private reach(): number | null {
    const view = this.stageView.view();
    return view && this.holds() ? reachOf(view) : null;
  }

  /** How well the hand places at this zoom. */
  byHand(): PlacedByHand {
    return placedByHand(this.stageView.view()?.scale ?? 1);
  }

  /** Edges near a line; none while the magnet is off or let go. */
  async edgesNear(a: Point, b: Point): Promise<readonly EdgeFit[]> {
    const reachPx = this.reach();
    if (reachPx === null) return [];
    const fits = await this.pictures.snap(this.session.id, a, b, reachPx);
    if (fits.length === 0 || lyingOn(fits).length > 0) return fits;
    // what runs along a part only may be an edge that bends away from the line
    const bent = await this.followed(a, b).catch(() => null);
    return bent && bent.bowSdPx < Math.max(SURE_BOW_PX, SURE_BOW_SHARE * Math.abs(fitOfFollowed(bent, a, b).bendPx))
      ? [fitOfFollowed(bent, a, b)]
      : fits;
  }

  /** Four corners, those in `which` settled on real ones; picture px. As they are while the magnet is off, let go, or finds nothing. */
  async settledCorners(corners: readonly Point[], which: readonly number[]): Promise<readonly Point[]> {
    const reachPx = this.reach();
    return reachPx === null ? corners : this.pictures.corners(this.session.id, corners, which, reachPx);
  }

  /** The edge between two points followed from end to end, whatever its bend; null while the magnet is off, let go, or finds none. */
  async followed(a: Point, b: Point): Promise<FollowedEdge | null> {
    const [reachPx, correction] = [this.reach(), this.session.committed()];
    if (reachPx === null || !correction) return null;
    return this.pictures.follow(this.session.id, a, b, reachPx, likelyBendOf(correction));
  }

  /** Notes what was found along a line that was placed, and follows its edge to see whether that is bent. */
  noteSnapped(id: string, fits: readonly EdgeFit[], index = 0): void {
    const lying = lyingOn(fits);
    const fit = lying[index];
    const share = fit?.share ?? Math.max(0, ...fits.map((f) => f.share));
    this.snapped.set(fits.length > 0 ? { id, fits: lying, index, course: null, share } : null);
    if (!fit) return;
    const noted = this.snapped();
    void this.followed(fit.a, fit.b)
      .catch(() => null)
      .then((edge) => {
        if (edge && noted && this.snapped() === noted) this.snapped.set({ ...noted, course: edge });
      });
  }

  /** Takes the selected line to the next of the edges found near it; false where there is none. */
  nextEdge(): boolean {
    const snapped = this.snapped();
    if (!snapped || snapped.id !== this.hand.id() || snapped.fits.length < 2) return false;
    const index = (snapped.index + 1) % snapped.fits.length;
    const fit = snapped.fits[index] as EdgeFit;
    this.noteSnapped(snapped.id, snapped.fits, index);
    this.session.commit((c) => withReference(c, snapped.id, placedOnEdge(fit)));
    return true;
  }

  switchOnOff(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { magnet: !this.settings().magnet } }));
  }
}
