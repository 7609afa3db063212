import { ApplicationRef, computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  composeWarp,
  delivered,
  likelyBendOf,
  originalOf,
  PlumbError,
  readingsOf,
  takenFromDelivery,
  withEdges,
  withoutEdgeEase,
  withoutRing,
  withPanels,
  withReference,
  withReferences,
  withStandingWishes,
  withTrim,
  type Correction,
  type Delivery,
  type DraftLine,
  type EdgeFit,
  type FollowedEdge,
  type PlaneWarp,
  type Point,
  type Readings,
  type Rect,
  type RingHandle,
  type Reference,
  type View,
  type Warp,
} from '@able-plumb/core';
import { PictureClient } from '../work/picture-client';
import { benchFeature } from '../state/bench.reducer';
import { benchActions } from '../state/bench.actions';
import { correctionActions } from '../state/correction.actions';
import { jobsFeature } from '../state/jobs.reducer';
import type { Compare, SettingOutChoice, Tool } from '../state/model';
import { shelfActions } from '../state/shelf.actions';
import {
  selectCanRedo,
  selectCanUndo,
  selectCorrection,
  selectGestureActive,
  selectOpenJob,
  selectOpenPicture,
  selectShownCorrection,
} from '../state/selectors';

/** A warp, or the sentence that says why there is none. */
export interface Shown {
  readonly warp: Warp;
  /** The correction that the warp belongs to: the asked-for one, or the nearest that works. */
  readonly correction: Correction;
  /** What stands in the way of what was asked for; the warp then shows the nearest thing that works. */
  readonly trouble: string | null;
}

/** A handle in the hand of the keyboard. */
export type HeldHandle =
  | { readonly kind: 'end'; readonly id: string; readonly which: 'a' | 'b' }
  | { readonly kind: 'corner' | 'bead'; readonly id: string; readonly index: number }
  | { readonly kind: 'ring'; readonly id: string; readonly handle: RingHandle }
  | { readonly kind: 'boundary'; readonly id: string };

/** What was found along a line when it was last placed. */
export interface Snapped {
  readonly id: string;
  /** Straight edges near it, and which of them it lies on. */
  readonly fits: readonly EdgeFit[];
  readonly index: number;
  /** The edge as it runs from end to end, which may be bent; null while it is not known. */
  readonly course: readonly Point[] | null;
}

/** How far the picture's pixels are. */
export type Loading = { readonly state: 'loading' } | { readonly state: 'ready' } | { readonly state: 'failed'; readonly message: string };

/** What the bench's parts share: the open picture, its correction as shown, its warp, and the ways to change it. */
@Injectable()
export class BenchModel {
  private readonly store = inject(Store);
  private readonly app = inject(ApplicationRef);
  private readonly pictures = inject(PictureClient);

  readonly picture = this.store.selectSignal(selectOpenPicture);
  readonly job = this.store.selectSignal(selectOpenJob);
  /** The picture's own correction as it is committed, whatever delivery is looked at. */
  readonly own = this.store.selectSignal(selectCorrection);
  /** The delivery whose crop is on the stage in place of the picture's own; null for none. */
  readonly delivery = signal<Delivery | null>(null);
  private readonly ownShown = this.store.selectSignal(selectShownCorrection);
  readonly correction = computed(() => asDelivered(this.ownShown(), this.delivery()));
  readonly committed = computed(() => asDelivered(this.own(), this.delivery()));
  /** The picture's deliveries that have proportions, and so a crop, of their own. */
  readonly shapedDeliveries = computed(() => {
    const chosen = this.own()?.deliveries ?? [];
    return this.settings().deliveries.filter((d) => d.ratio !== 'crop' && chosen.some((c) => c.id === d.id));
  });
  readonly canUndo = this.store.selectSignal(selectCanUndo);
  readonly canRedo = this.store.selectSignal(selectCanRedo);
  readonly gestureActive = this.store.selectSignal(selectGestureActive);
  readonly knot = this.store.selectSignal(benchFeature.selectKnot);
  readonly tool = this.store.selectSignal(benchFeature.selectTool);
  readonly penArmed = computed(() => this.tool() === 'pen');
  readonly marks = this.store.selectSignal(benchFeature.selectMarks);
  readonly workLight = this.store.selectSignal(benchFeature.selectWorkLight);
  readonly grid = this.store.selectSignal(benchFeature.selectGrid);
  /** How Check compares; 'result' at every other step. */
  readonly compare = computed(() => (this.knot() === 'check' && !this.originalHeld() ? this.compareChoice() : 'result'));
  readonly compareChoice = this.store.selectSignal(benchFeature.selectCompare);
  /** Where the wipe stands, share of the stage's width. */
  readonly wipe = signal(0.5);
  /** Whether Check shows by how much every part was enlarged. */
  readonly stretch = signal(false);
  readonly originalHeld = this.store.selectSignal(benchFeature.selectOriginalHeld);
  readonly drawingOn = this.store.selectSignal(benchFeature.selectDrawingOn);
  readonly selectedId = this.store.selectSignal(benchFeature.selectSelectedReference);
  readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  readonly loading = signal<Loading>({ state: 'loading' });
  readonly draft = signal<DraftLine | null>(null);
  /** The keep box or ring being drawn, plane px. */
  readonly boxDraft = signal<Rect | null>(null);
  /** Held down, lines stay where they are drawn. */
  readonly letGo = signal(false);
  /** Edges found for a line when it was last placed, and which of them it lies on. */
  readonly snapped = signal<Snapped | null>(null);
  /** Corners of the panel being marked, picture px. */
  readonly corners = signal<readonly Point[]>([]);
  /** Edges of the panel being marked, picture px. */
  readonly edges = signal<readonly (readonly [Point, Point])[]>([]);
  /** Beads of the edge being traced, in their order along it, picture px. */
  readonly beads = signal<readonly Point[]>([]);
  /** The handle that arrow keys nudge: an end of a line, or a corner or edge end of a panel. */
  readonly held = signal<HeldHandle | null>(null);
  readonly view = signal<View | null>(null);
  /** True once the user has zoomed or panned: the stage then no longer fits itself. */
  readonly viewHeld = signal(false);
  /** Counts the times that a fit was asked for. */
  readonly fitAsked = signal(0);
  /** A line whose kind the pen asks about: too steep for a level line and not steep enough for a plumb one to be sure. */
  readonly asks = signal<string | null>(null);
  readonly pointer = signal<Point | null>(null);
  readonly hint = signal('');
  /** Plane point under the loupe while something is placed. */
  readonly loupe = signal<{ readonly at: Point; readonly screen: Point } | null>(null);

  /** Whether the stage shows the original at this moment. */
  readonly showsOriginal = computed(
    () => this.originalHeld() || ((this.knot() === 'references' || this.knot() === 'lens') && this.drawingOn() === 'original'),
  );

  /** While something moves the first good trim will do: with a lens the best one takes longer than a frame. */
  private readonly trim = computed(() => (this.gestureActive() ? 'near' : 'best'));

  readonly shown = computed<Shown | null>(() => {
    const correction = this.correction();
    return correction && shownWarp(correction, this.trim());
  });

  /** Whether the crop goes round a panel by itself. */
  readonly aroundPanel = computed(() => {
    const crop = this.correction()?.crop;
    return crop?.around === 'panel' && !crop.rect;
  });

  /** What the stage draws: the correction as shown, or the bare original. */
  readonly stageCorrection = computed(() => {
    const shown = this.shown();
    return shown && (this.showsOriginal() ? originalOf(shown.correction) : shown.correction);
  });

  readonly stageWarp = computed<PlaneWarp | null>(() => {
    const correction = this.stageCorrection();
    if (!correction) return null;
    return this.showsOriginal() ? shownWarp(correction).warp : (this.shown()?.warp ?? null);
  });

  /** The correction as it will be once the gesture ends: what was pointed at solved anew, where that was moved. */
  readonly settled = computed(() => {
    const correction = this.correction();
    const committed = this.committed();
    if (!correction || !committed) return correction;
    const moved = correction.references !== committed.references || correction.panels !== committed.panels;
    return moved && this.gestureActive() ? withStandingWishes(resolved(correction)) : correction;
  });

  /** The warp of what it will be. */
  readonly settledShown = computed<Shown | null>(() => {
    const settled = this.settled();
    return settled === this.correction() ? this.shown() : settled && shownWarp(settled, this.trim());
  });

  readonly readings = computed<Readings | null>(() => {
    const settled = this.settledShown();
    return settled && readingsOf(settled.correction, settled.warp);
  });

  /** The traced edge that is selected. */
  readonly selectedEdge = computed(() => this.correction()?.lens.edges.find((e) => e.id === this.selectedId()) ?? null);

  /** The ring or edge easing that is selected. */
  readonly selectedEase = computed(() => {
    const ease = this.correction()?.ease;
    return [...(ease?.rings ?? []), ...(ease?.edges ?? [])].find(({ id }) => id === this.selectedId()) ?? null;
  });

  readonly selected = computed(() => this.correction()?.references.find((r) => r.id === this.selectedId()) ?? null);

  /** Shows a change without keeping it; computed from what is committed, so that a gesture never adds up. */
  preview(change: (correction: Correction) => Correction): void {
    this.send(change, correctionActions.previewed);
    // at once, so that the worker draws while the browser lays this frame out, and the marks are in it
    this.app.tick();
  }

  /** Makes a change: one undo step. */
  commit(change: (correction: Correction) => Correction): void {
    this.send(change, correctionActions.committed);
  }

  /** Keeps what the gesture shows. */
  commitShown(finish: (shown: Correction) => Correction = (shown) => shown): void {
    const shown = this.correction();
    const before = this.own();
    const pictureId = this.picture()?.id;
    if (!shown || !before || !pictureId) return;
    this.store.dispatch(correctionActions.committed({ pictureId, correction: this.ownOf(withStandingWishes(finish(shown)), before) }));
  }

  /** The picture's own correction after a change to what is shown: a delivery on the stage keeps its crop for itself. */
  private ownOf(changed: Correction, before: Correction): Correction {
    const delivery = this.delivery();
    return delivery ? takenFromDelivery(changed, before, delivery.id) : changed;
  }

  cancel(): void {
    const pictureId = this.picture()?.id;
    if (pictureId) this.store.dispatch(correctionActions.cancelled({ pictureId }));
  }

  undo(): void {
    const pictureId = this.picture()?.id;
    if (pictureId) this.store.dispatch(correctionActions.undone({ pictureId }));
  }

  redo(): void {
    const pictureId = this.picture()?.id;
    if (pictureId) this.store.dispatch(correctionActions.redone({ pictureId }));
  }

  private placing: Promise<unknown> = Promise.resolve();

  /** Runs placements one after the other, so that lines drawn in quick succession keep their order. */
  inOrder(place: () => Promise<unknown>): void {
    this.placing = this.placing.then(place, place);
  }

  /** Edges near a line; none while the magnet is off or let go. */
  async edgesNear(a: Point, b: Point): Promise<readonly EdgeFit[]> {
    const pictureId = this.picture()?.id;
    const view = this.view();
    if (!pictureId || !view || !this.settings().magnet || this.letGo()) return [];
    return this.pictures.ask('snap', { pictureId, a, b, reachPx: reachOf(view) }).catch(() => []);
  }

  /** Four corners, those in `which` settled on real ones; picture px. As they are while the magnet is off, let go, or finds nothing. */
  async settledCorners(corners: readonly Point[], which: readonly number[]): Promise<readonly Point[]> {
    const pictureId = this.picture()?.id;
    const view = this.view();
    if (!pictureId || !view || !this.settings().magnet || this.letGo()) return corners;
    return this.pictures.ask('corners', { pictureId, corners, which, reachPx: reachOf(view) }).catch(() => corners);
  }

  /** The edge between two points followed from end to end, whatever its bend; null while the magnet is off, let go, or finds none. */
  async followed(a: Point, b: Point): Promise<FollowedEdge | null> {
    const pictureId = this.picture()?.id;
    const view = this.view();
    const correction = this.committed();
    if (!pictureId || !view || !correction || !this.settings().magnet || this.letGo()) return null;
    return this.pictures.ask('follow', { pictureId, a, b, reachPx: reachOf(view), bend: likelyBendOf(correction) }).catch(() => null);
  }

  /** Notes what was found along a line that was placed, and follows its edge to see whether that is bent. */
  noteSnapped(id: string, fits: readonly EdgeFit[], index = 0): void {
    const fit = fits[index];
    this.snapped.set(fit ? { id, fits, index, course: null } : null);
    if (!fit) return;
    void this.followed(fit.a, fit.b).then((edge) => {
      if (edge && this.snapped()?.id === id && this.snapped()?.index === index)
        this.snapped.update((s) => s && { ...s, course: edge.points });
    });
  }

  /** Takes the selected line to the next of the edges found near it; false where there is none. */
  nextEdge(): boolean {
    const snapped = this.snapped();
    if (!snapped || snapped.id !== this.selectedId() || snapped.fits.length < 2) return false;
    const index = (snapped.index + 1) % snapped.fits.length;
    const fit = snapped.fits[index] as EdgeFit;
    this.noteSnapped(snapped.id, snapped.fits, index);
    this.commit((c) => withReference(c, snapped.id, onEdge(fit)));
    return true;
  }

  /** True from the moment setting-out lines are picked until something else is done: they are seen at once. */
  readonly settingOutPicked = signal(false);

  changeSettingOut(change: Partial<SettingOutChoice>): void {
    this.settingOutPicked.set(true);
    this.store.dispatch(shelfActions.settingsChanged({ change: { settingOut: { ...this.settings().settingOut, ...change } } }));
  }

  switchMagnet(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { magnet: !this.settings().magnet } }));
  }

  chooseGrid(percent: number): void {
    this.store.dispatch(benchActions.gridChosen({ percent }));
  }

  chooseCompare(compare: Compare): void {
    this.store.dispatch(benchActions.compared({ compare }));
  }

  switchWorkLight(): void {
    this.store.dispatch(benchActions.workLightSwitched());
  }

  takeTool(tool: Tool): void {
    this.corners.set([]);
    this.edges.set([]);
    this.beads.set([]);
    this.store.dispatch(benchActions.toolTaken({ tool }));
  }

  /** Fits the picture to the stage, and lets it fit itself from now on. */
  fit(): void {
    this.viewHeld.set(false);
    this.fitAsked.update((n) => n + 1);
  }

  select(id: string | null): void {
    if (this.held()?.id !== id) this.held.set(null);
    if (this.asks() !== id) this.asks.set(null);
    this.store.dispatch(benchActions.referenceSelected({ id }));
  }

  removeEdge(id: string): void {
    this.commit((c) =>
      withEdges(
        c,
        c.lens.edges.filter((e) => e.id !== id),
      ),
    );
    if (this.selectedId() === id) this.select(null);
  }

  /** Removes a ring or an edge easing. */
  removeEase(id: string): void {
    this.commit((c) => withoutEdgeEase(withoutRing(c, id), id));
    if (this.selectedId() === id) this.select(null);
  }

  setReferences(change: (references: readonly Reference[]) => readonly Reference[]): void {
    this.commit((c) => withReferences(c, change(c.references)));
  }

  private send(
    change: (correction: Correction) => Correction,
    action: typeof correctionActions.previewed | typeof correctionActions.committed,
  ): void {
    const committed = this.committed();
    const before = this.own();
    const pictureId = this.picture()?.id;
    if (!committed || !before || !pictureId) return;
    this.store.dispatch(action({ pictureId, correction: this.ownOf(withStandingWishes(change(committed)), before) }));
  }
}

/** A correction with the crop and the size of a delivery, where one is looked at and can be had. */
function asDelivered(own: Correction | null, delivery: Delivery | null): Correction | null {
  if (!own || !delivery) return own;
  try {
    return delivered(own, delivery);
  } catch {
    return own;
  }
}

/** A reference's ends on an edge. */
export const onEdge = ({ a, b }: EdgeFit): Pick<Reference, 'a' | 'b'> => ({ a: [a[0], a[1]], b: [b[0], b[1]] });

/** How far the magnet reaches: a few screen px, within bounds in picture px. */
const REACH_SCREEN_PX = 6;
const LEAST_REACH_PX = 3;
const MOST_REACH_PX = 80;

const reachOf = (view: View): number => Math.min(MOST_REACH_PX, Math.max(LEAST_REACH_PX, REACH_SCREEN_PX / view.scale));

/** The document with its stance solved anew from what it holds. */
const resolved = (c: Correction): Correction => withPanels(c, c.panels);

/** Ways out when a correction cannot be shown as it is, nearest first: a smaller file, another crop, the original. */
const WAYS_OUT: readonly ((c: Correction) => Correction)[] = [
  (c) => c,
  (c) => ({ ...c, output: { ...c.output, size: { kind: 'long-edge', px: 4000 } } }),
  (c) => withTrim({ ...c, output: { ...c.output, size: { kind: 'long-edge', px: 4000 } } }, { edges: 'keep' }),
  originalOf,
];

/** The warp of a correction; when it cannot be had, the nearest thing that can be shown, and the reason. */
function shownWarp(asked: Correction, trim: 'best' | 'near' = 'best'): Shown {
  let trouble: string | null = null;
  for (const way of WAYS_OUT) {
    try {
      const correction = way(asked);
      return { warp: composeWarp(correction, correction.picture, trim), correction, trouble };
    } catch (error) {
      if (!(error instanceof PlumbError)) throw error;
      trouble ??= error.message;
    }
  }
  throw new Error('Even the original cannot be shown.');
}
