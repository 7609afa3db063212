import { computed, inject, Injectable, signal, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  asSheet,
  changeInWords,
  delivered,
  takenFromDelivery,
  takenFromSheet,
  withPanels,
  withQuarterTurn,
  withReferences,
  withStandingWishes,
  type Correction,
  type Delivery,
  type DraftLine,
  type Reference,
} from '@able-plumb/core';
import { DocumentKeeper } from '../../keeper/document-keeper';
import { JobKeeper } from '../../keeper/job-keeper';
import { LensKeeper } from '../../keeper/lens-keeper';
import { benchFeature } from '../../state/bench.reducer';
import { correctionActions } from '../../state/correction.actions';
import { correctionsFeature } from '../../state/corrections.reducer';
import { jobsFeature } from '../../state/jobs.reducer';
import { selectJobEntities, selectPictureEntities } from '../../state/selectors';
import { shelfActions } from '../../state/shelf.actions';
import { StageClient } from '../../work/stage-client';
import { HeldKey } from './held-key';

/** How far the picture's pixels are. */
export type Loading = { readonly state: 'loading' } | { readonly state: 'ready' } | { readonly state: 'failed'; readonly message: string };

export type Change = (correction: Correction) => Correction;

/** Something that was done, and is committed once its answer is there. */
export interface Placement<T> {
  /** Gives the answer; one that fails counts as none. */
  readonly ask: () => Promise<T | null>;
  /** How the document is shown meanwhile. */
  readonly meanwhile?: Change;
  /** The line that is shown meanwhile. */
  readonly draft?: DraftLine;
  /** What is committed; null where there is no answer. */
  readonly land: (correction: Correction, answer: T | null) => Correction;
  /** What follows on the bench, as long as the picture is open. */
  readonly then?: (answer: T | null) => void;
}

interface Awaited {
  readonly meanwhile: Change;
  readonly draft: DraftLine | null;
  /** Commits it with the answer; does so once. */
  readonly land: (answer: unknown) => void;
}

interface GestureOf {
  readonly change: Change;
  readonly shown: Correction;
}

/**
 * One opened picture: its document, the gesture of the moment, and every answer that is awaited. It stays with its picture: when another
 * one is opened this session is closed, and what still waits is committed where it belongs, and nothing else follows from it.
 */
@Injectable()
export class PictureSession implements OnDestroy {
  private readonly store = inject(Store);
  private readonly documents = inject(DocumentKeeper);
  private readonly jobKeeper = inject(JobKeeper);
  private readonly lenses = inject(LensKeeper);
  private readonly pictures = inject(StageClient);
  private readonly heldKey = inject(HeldKey);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  private readonly jobs = this.store.selectSignal(selectJobEntities);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);
  private readonly jobsElsewhere = this.store.selectSignal(jobsFeature.selectElsewhere);

  /** The picture that this is the session of. */
  readonly id = this.store.selectSignal(benchFeature.selectPictureId)() ?? '';
  /** Whether it is worked on as a sheet: its pieces then stand as panels on the bare picture. */
  readonly sheet = this.store.selectSignal(benchFeature.selectSheet)();
  private ended = false;
  /** Whether another picture was opened since: no gesture begins here any more, and nothing follows from this one on the bench. */
  get closed(): boolean {
    return this.ended;
  }

  readonly picture = computed(() => this.entities()[this.id] ?? null);
  readonly job = computed(() => this.jobs()[this.picture()?.jobId ?? ''] ?? null);
  /** Whether another tab writes this picture's job: it is only looked at here. */
  readonly elsewhere = computed(() => this.jobsElsewhere().includes(this.picture()?.jobId ?? ''));
  readonly loading = signal<Loading>({ state: 'loading' });

  private readonly history = computed(() => this.histories()[this.id] ?? null);
  readonly canUndo = computed(() => !this.elsewhere() && (this.awaited().length > 0 || (this.history()?.past.length ?? 0) > 0));
  /** How many changes the picture has seen. */
  readonly version = computed(() => this.history()?.version ?? 0);
  readonly canRedo = computed(() => !this.elsewhere() && (this.history()?.future.length ?? 0) > 0);

  /** What undo would take back, and what redo would bring again, in a few words; empty for nothing. */
  readonly undoWords = computed(() => {
    const history = this.history();
    const before = history?.past.at(-1);
    return this.awaited().length > 0 ? 'line drawn' : history && before ? changeInWords(before, history.present) : '';
  });
  readonly redoWords = computed(() => {
    const history = this.history();
    const after = history?.future[0];
    return history && after ? changeInWords(history.present, after) : '';
  });

  /** The picture's own correction as it is committed, whatever delivery is looked at. */
  readonly own = computed(() => this.history()?.present ?? null);
  /** The delivery whose crop is on the stage in place of the picture's own; null for none. */
  readonly delivery = signal<Delivery | null>(null);
  /** The picture's deliveries that have proportions, and so a crop, of their own. */
  readonly shapedDeliveries = computed(() => {
    const chosen = this.own()?.deliveries ?? [];
    return this.settings().deliveries.filter((d) => d.ratio !== 'crop' && chosen.some((c) => c.id === d.id));
  });

  private readonly awaited = signal<readonly Awaited[]>([]);
  /** Lines that were drawn and wait for their answers. */
  readonly awaitedLines = computed(() => this.awaited().flatMap(({ draft }) => draft ?? []));
  private readonly gesture = signal<GestureOf | null>(null);
  /** True while something moves, or waits for where it settles. */
  readonly gestureActive = computed(() => this.gesture() !== null || this.awaited().length > 0);

  /** What is committed, as a delivery has it where one is looked at. */
  readonly settledAlready = computed(() => {
    const own = this.own();
    return own && this.sheet ? asSheet(own) : asDelivered(own, this.delivery());
  });
  /** What a change begins with: what is committed, and what was done and waits. */
  readonly committed = computed(() => {
    const committed = this.settledAlready();
    return committed && this.awaited().reduce((c, { meanwhile }) => meanwhile(c), committed);
  });
  /** What is shown. */
  readonly correction = computed(() => (this.elsewhere() ? null : this.gesture()?.shown) ?? this.committed());

  /** Reads what is needed of the picture, and has its pixels opened. */
  async open(): Promise<void> {
    const picture = this.picture();
    if (!picture) return;
    try {
      await this.documents.loadHistories([this.id]);
      const file = await this.jobKeeper.original(this.id);
      if (!file)
        throw new Error(
          `The file of ${picture.name} is no longer in this browser. Its correction is safe; open the file again in this job.`,
        );
      const found = this.own();
      const lens = found && this.lenses.withFound(found, picture);
      // a profile that came into the cabinet since the picture was opened first
      if (lens && lens !== found && !this.elsewhere()) this.dispatch(lens);
      const trouble = await this.pictures.open(this.id, picture.name, file);
      if (trouble) this.store.dispatch(shelfActions.noticed({ sentence: `${picture.name}: ${trouble}` }));
      if (this.closed) return;
      this.loading.set({ state: 'ready' });
      await this.jobKeeper.pictureOpened(picture);
    } catch (error) {
      this.loading.set({ state: 'failed', message: (error as Error).message });
    }
  }

  /** Shows a change without keeping it; computed from what is committed, so that a gesture never adds up. */
  preview(change: Change): void {
    const committed = this.committed();
    if (committed && !this.closed && !this.elsewhere()) this.gesture.set({ change, shown: withStandingWishes(change(committed)) });
  }

  /**
   * Makes a change: one undo step.
   * @param step names what is repeated where one change follows the other, as with a key that is held: soon after, they are one step
   */
  commit(change: Change, step?: string): void {
    const committed = this.committed();
    this.gesture.set(null);
    if (committed && !this.elsewhere()) this.keep(change(committed), step ?? this.heldKey.name() ?? undefined);
  }

  /** Keeps what the gesture shows. */
  commitShown(): void {
    const shown = this.correction();
    this.gesture.set(null);
    if (shown && !this.elsewhere() && !this.closed) this.keep(shown);
  }

  /**
   * Commits a change once its answer is there, after those that were placed before it. Whatever is opened, drawn or moved meanwhile, it
   * lands in this picture.
   */
  place<T>({ ask, meanwhile = (c) => c, draft, land, then = () => undefined }: Placement<T>): void {
    this.gesture.set(null);
    if (this.elsewhere() || this.closed) return;
    let landed = false;
    const entry: Awaited = {
      meanwhile,
      draft: draft ?? null,
      land: (answer) => {
        if (landed || !this.awaited().includes(entry)) return;
        landed = true;
        this.awaited.update((all) => all.filter((other) => other !== entry));
        const committed = this.settledAlready();
        if (committed) this.keep(land(committed, answer as T | null));
        // what moves now moves on from there
        const moving = this.gesture();
        if (moving) this.preview(moving.change);
        if (!this.closed) then(answer as T | null);
      },
    };
    this.awaited.update((all) => [...all, entry]);
    const answer = ask().catch(() => null);
    this.placing = this.placing.then(async () => entry.land(await answer));
  }

  private placing: Promise<void> = Promise.resolve();

  /** Commits at once what still waits, as it was drawn: nobody is there for the answers. */
  landAll(): void {
    for (const { land } of this.awaited()) land(null);
  }

  /** Takes the last thing back that waits for its answer; false where nothing does. */
  takeBack(): boolean {
    const waits = this.awaited().length > 0;
    this.awaited.update((all) => all.slice(0, -1));
    return waits;
  }

  cancel(): void {
    this.gesture.set(null);
  }

  undo(): void {
    this.gesture.set(null);
    if (!this.elsewhere() && !this.takeBack()) this.store.dispatch(correctionActions.undone({ pictureId: this.id }));
  }

  redo(): void {
    this.gesture.set(null);
    if (!this.elsewhere()) this.store.dispatch(correctionActions.redone({ pictureId: this.id }));
  }

  /** Changes the picture's own document, however it is shown: one undo step. */
  changeOwn(change: Change): void {
    const own = this.own();
    this.gesture.set(null);
    if (own && !this.elsewhere()) this.dispatch(change(own));
  }

  setReferences(change: (references: readonly Reference[]) => readonly Reference[]): void {
    this.commit((c) => withReferences(c, change(c.references)));
  }

  ngOnDestroy(): void {
    this.ended = true;
    this.gesture.set(null);
  }

  /** Turns what is seen by quarters, clockwise, and nothing else: all crops turn along, the picture's own stands for them. */
  quarterTurn(by: number): void {
    this.gesture.set(null);
    this.delivery.set(null);
    const committed = this.committed();
    if (committed && !this.elsewhere()) this.dispatch(withQuarterTurn(committed, by));
  }

  private keep(changed: Correction, step?: string): void {
    const own = this.own();
    if (!own) return;
    if (this.sheet) return this.dispatch(takenFromSheet(changed, own), step);
    const [wished, delivery] = [withStandingWishes(changed), this.delivery()];
    // a delivery on the stage keeps its crop for itself
    this.dispatch(delivery ? takenFromDelivery(wished, own, delivery.id) : wished, step);
  }

  private dispatch(correction: Correction, step?: string): void {
    this.store.dispatch(correctionActions.committed({ pictureId: this.id, correction, step }));
  }
}

/** The document with its stance solved anew from what it holds. */
export const resolved: Change = (c) => withPanels(c, c.panels);

/** A correction with the crop and the size of a delivery, where one is looked at and can be had. */
function asDelivered(own: Correction | null, delivery: Delivery | null): Correction | null {
  if (!own || !delivery) return own;
  try {
    return delivered(own, delivery);
  } catch {
    return own;
  }
}
