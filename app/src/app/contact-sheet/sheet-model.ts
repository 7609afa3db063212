import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { copiedTo, withQuarterTurn, type Copyable, type Correction } from '@able-plumb/core';
import { JobClaims } from '../keeper/job-claims';
import { DocumentKeeper } from '../keeper/document-keeper';
import { JobKeeper } from '../keeper/job-keeper';
import { correctionActions } from '../state/correction.actions';
import { contactActions, contactFeature, type SheetFilter, type SheetOrder } from '../state/contact.reducer';
import { correctionsFeature } from '../state/corrections.reducer';
import { findingFeature } from '../state/finding.reducer';
import { jobsFeature } from '../state/jobs.reducer';
import type { Picture } from '../state/model';
import { saidOf, type SaidOfPicture } from './said-of-picture';
import { selectJobEntities, selectPictureEntities } from '../state/selectors';
import { judgedAlready, keepJudged, type Judged } from '../work/judge';
import { ThumbnailClient } from '../work/thumbnail-client';

/** A picture on the sheet. */
export interface SheetPicture {
  readonly picture: Picture;
  /** Place in the job, from 1. */
  readonly number: number;
  /** Null until it comes from the shelf. */
  readonly correction: Correction | null;
  readonly selected: boolean;
  /** How many pictures are linked with it, itself counted; 0 for none. */
  readonly linked: number;
  /** What it said by itself; null where it was not asked. */
  readonly said: SaidOfPicture | null;
}

/** What the parts of a contact sheet share: its job, its pictures in their order, the selection and what is done to it. */
@Injectable()
export class SheetModel {
  private readonly store = inject(Store);
  private readonly keeper = inject(JobKeeper);
  private readonly documents = inject(DocumentKeeper);
  private readonly claims = inject(JobClaims);
  private readonly thumbnails = inject(ThumbnailClient);
  /** How often readings came that were worked out beside the page. */
  private readonly judgings = signal(0);
  private readonly jobs = this.store.selectSignal(selectJobEntities);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);

  private readonly findings = this.store.selectSignal(findingFeature.selectFindings);
  private readonly asked = this.store.selectSignal(findingFeature.selectAsked);
  private readonly jobsElsewhere = this.store.selectSignal(jobsFeature.selectElsewhere);

  readonly jobId = signal('');
  readonly order = this.store.selectSignal(contactFeature.selectOrder);
  readonly filter = this.store.selectSignal(contactFeature.selectFilter);
  readonly job = computed(() => this.jobs()[this.jobId()] ?? null);
  /** Whether another tab writes this job: it is only looked at here. */
  readonly elsewhere = computed(() => this.jobsElsewhere().includes(this.jobId()));
  /** What was said of the last thing done. */
  readonly said = signal<{ readonly text: string; readonly trouble: boolean } | null>(null);

  private readonly selectedIds = this.store.selectSignal(contactFeature.selectSelection);
  readonly selection = computed(() => {
    const mine = new Set(this.job()?.pictureIds);
    return this.selectedIds().filter((id) => mine.has(id));
  });
  /** The picture that the selection began with: others are given what it has. */
  readonly first = computed(() => {
    const id = this.selection()[0];
    return id === undefined ? null : (this.entities()[id] ?? null);
  });

  private readonly all = computed<readonly SheetPicture[]>(() => {
    const [entities, histories, selection] = [this.entities(), this.histories(), new Set(this.selection())];
    const [findings, asked] = [this.findings(), new Set(this.asked())];
    const ids = this.job()?.pictureIds ?? [];
    const pictures = ids.flatMap((id) => entities[id] ?? []);
    const sizes = new Map<string, number>();
    for (const { set } of pictures) if (set !== undefined) sizes.set(set, (sizes.get(set) ?? 0) + 1);
    return pictures.map((picture, i) => {
      const linked = picture.set === undefined ? 0 : (sizes.get(picture.set) ?? 0);
      return {
        picture,
        number: i + 1,
        correction: histories[picture.id]?.present ?? null,
        selected: selection.has(picture.id),
        linked: linked > 1 ? linked : 0,
        said: saidOf(findings[picture.id] ?? null, asked.has(picture.id), histories[picture.id]?.present ?? null),
      };
    });
  });
  readonly count = computed(() => this.all().length);

  /** The pictures that are shown, in their order. */
  readonly shown = computed<readonly SheetPicture[]>(() => {
    this.judgings();
    const filter = this.filter();
    const kept = this.all().filter((p) => {
      if (filter === 'all') return true;
      if (filter === 'linked') return p.linked > 0;
      if (filter === 'sure' || filter === 'likely' || filter === 'silent') return p.said?.state === filter;
      return p.correction !== null && judgedAlready(p.correction)?.state === filter;
    });
    const key = KEYS[this.order()];
    return key ? [...kept].sort((p, q) => compare(key(p), key(q))) : kept;
  });

  /** Corrections whose readings the order or the filter needs and nobody has worked out. */
  readonly unjudged = computed<readonly Correction[]>(() => {
    this.judgings();
    if (this.order() !== 'lean' && !OF_READINGS.includes(this.filter())) return [];
    return this.all().flatMap(({ correction }) => (correction && !judgedAlready(correction) ? [correction] : []));
  });
  private judging = false;

  /** Has the readings that are needed worked out beside the page, some at a time. */
  async judgeThem(): Promise<void> {
    if (this.judging) return;
    this.judging = true;
    try {
      for (let some = this.unjudged(); some.length > 0; some = this.unjudged()) {
        const corrections = some.slice(0, AT_ONCE);
        const found = await this.thumbnails.judge(corrections);
        corrections.forEach((correction, i) => keepJudged(correction, found[i] as Judged));
        this.judgings.update((n) => n + 1);
      }
    } catch (error) {
      this.said.set({ text: (error as Error).message, trouble: true });
    } finally {
      this.judging = false;
    }
  }

  /** Reads what is needed from the shelf. */
  async open(jobId: string): Promise<void> {
    this.jobId.set(jobId);
    this.said.set(null);
    await this.claims.claim(jobId);
    await this.documents.loadHistories(this.job()?.pictureIds ?? []);
  }

  select(ids: readonly string[]): void {
    this.said.set(null);
    this.store.dispatch(contactActions.selected({ ids }));
  }

  /** Turns the selected pictures by quarters, clockwise. */
  turn(by: number): void {
    if (!this.refuses()) this.change((c) => withQuarterTurn(c, by), this.selection());
  }

  /** Gives the other selected pictures what the first one has. */
  copy(what: readonly Copyable[]): void {
    const [firstId, ...others] = this.selection();
    const source = firstId === undefined ? undefined : this.histories()[firstId]?.present;
    if (!source) return;
    if (this.refuses()) return;
    const { refused } = this.change((c) => copiedTo(c, source, what), others);
    const done = others.length - refused.length;
    this.said.set({
      text: `${what.join(', ')} of ${source.picture.name} copied to ${done} ${done === 1 ? 'picture' : 'pictures'}${refused.length > 0 ? `; ${refused.length} ${refused.length === 1 ? 'was' : 'were'} left as before: ${[...new Set(refused)].join(' ')}` : '.'} Undo on the bench takes it back, picture by picture.`,
      trouble: refused.length > 0,
    });
  }

  /** Whether the selected pictures can be one set: two or more of one size. */
  readonly linkable = computed(() => {
    const sizes = new Set(this.selection().map((id) => `${this.entities()[id]?.width} ${this.entities()[id]?.height}`));
    return this.selection().length > 1 && sizes.size === 1;
  });
  readonly anyLinked = computed(() => this.selection().some((id) => this.entities()[id]?.set !== undefined));

  async link(): Promise<void> {
    const ids = this.selection();
    const first = ids[0];
    const present = first === undefined ? undefined : this.histories()[first]?.present;
    if (first === undefined || !present || !this.linkable() || this.refuses()) return;
    await this.keeper.link(ids, true);
    // committed as it is: the others follow
    this.store.dispatch(correctionActions.committed({ pictureId: first, correction: present }));
    this.said.set({
      text: `${ids.length} pictures have one correction now, that of ${present.picture.name}: their pixels lie alike.`,
      trouble: false,
    });
  }

  async unlink(): Promise<void> {
    if (this.refuses()) return;
    await this.keeper.link(this.selection(), false);
    this.said.set({ text: 'Unlinked: each picture keeps the correction it has, for itself.', trouble: false });
  }

  async remove(ids = this.selection()): Promise<void> {
    if (this.refuses()) return;
    await this.keeper.removePictures(this.jobId(), ids);
    this.select([]);
  }

  /** Says so where another tab writes the job. */
  refuses(): boolean {
    if (this.elsewhere()) this.said.set({ text: 'Nothing was changed: this job is being worked on in another tab.', trouble: true });
    return this.elsewhere();
  }

  /**
   * Changes pictures, each with an undo step of its own; of a linked set the first, which the others follow.
   * @returns those that were changed, and why others refused
   */
  change(
    change: (correction: Correction, pictureId: string) => Correction,
    ids: readonly string[],
  ): { readonly changed: readonly string[]; readonly refused: readonly string[] } {
    const [changed, refused]: [string[], string[]] = [[], []];
    const sets = new Set<string>();
    for (const pictureId of ids) {
      const present = this.histories()[pictureId]?.present;
      const set = this.entities()[pictureId]?.set;
      if (!present || (set !== undefined && sets.has(set))) continue;
      // the others of a set follow the first
      if (set !== undefined) sets.add(set);
      try {
        this.store.dispatch(correctionActions.committed({ pictureId, correction: change(present, pictureId) }));
        changed.push(pictureId);
      } catch (error) {
        refused.push((error as Error).message);
      }
    }
    return { changed, refused };
  }
}

/** States that tell of a correction's readings. */
const OF_READINGS: readonly SheetFilter[] = ['untouched', 'set', 'attention'];
/** So many corrections are judged with one question: small results come between. */
const AT_ONCE = 25;

const KEYS: Readonly<Record<SheetOrder, ((p: SheetPicture) => string | number) | null>> = {
  job: null,
  name: (p) => p.picture.name,
  taken: (p) => p.picture.takenAt ?? '\uffff',
  // the worst first; those without lines last
  lean: (p) => -((p.correction && judgedAlready(p.correction)?.beforeDeg) ?? -1),
  found: (p) => p.said?.withinDeg ?? Number.MAX_VALUE,
};

const compare = (a: string | number, b: string | number): number =>
  typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b), undefined, { numeric: true });
