import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { foundLines, SURE_DEG, SUGGESTION_NAMES, withFoundLines, type Suggestion, type SuggestionKind } from '@able-plumb/core';
import { DocumentKeeper } from '../keeper/document-keeper';
import { Finder } from '../keeper/finder';
import { JobKeeper } from '../keeper/job-keeper';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature } from '../state/corrections.reducer';
import { findingActions, findingFeature, seenWith } from '../state/finding.reducer';
import { SheetModel } from './sheet-model';

/** Finding lines in many pictures at once, and taking those that are sure. */
@Injectable()
export class SheetFinding {
  private readonly store = inject(Store);
  private readonly finder = inject(Finder);
  private readonly documents = inject(DocumentKeeper);
  private readonly keeper = inject(JobKeeper);
  private readonly model = inject(SheetModel);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);
  private readonly findings = this.store.selectSignal(findingFeature.selectFindings);
  private readonly asked = this.store.selectSignal(findingFeature.selectAsked);

  readonly kind = signal<SuggestionKind>('stand-plumb');
  readonly limitDeg = signal(SURE_DEG);
  /** How many were asked for since none waited. */
  private readonly begun = signal(0);

  /** Pictures of this job that still wait. */
  private readonly waiting = computed(() => {
    const mine = new Set(this.model.job()?.pictureIds);
    return this.asked().filter((id) => mine.has(id));
  });
  readonly progress = computed(() => {
    const [left, all] = [this.waiting().length, Math.max(this.begun(), this.waiting().length)];
    return left === 0 ? null : { done: all - left, all, percent: (100 * (all - left)) / all };
  });

  /** Pictures of the selection that were asked: those whose suggestion of the kind is sure to the limit, and the others. */
  readonly sorted = computed(() => {
    const [sure, rest]: [string[], string[]] = [[], []];
    for (const id of this.model.selection()) {
      const [finding, present] = [this.findings()[id], this.histories()[id]?.present];
      if (!finding || !present || finding.seenWith !== seenWith(present)) continue;
      const of = this.suggestion(id);
      const drawn = present.references.some(({ used, by }) => used && by !== 'found');
      if (of?.sure === 'sure' && of.withinDeg <= this.limitDeg() && !finding.refused && !drawn) sure.push(id);
      else rest.push(id);
    }
    return { sure, rest };
  });

  /** What was changed last by taking the sure ones of this job; kept while somebody looks at one of them on the bench. */
  private readonly took = this.store.selectSignal(findingFeature.selectTaken);
  readonly canTakeBack = computed(
    () =>
      this.took().length > 0 &&
      this.took().every(({ id, version }) => this.model.job()?.pictureIds.includes(id) && this.histories()[id]?.version === version),
  );

  private suggestion(id: string): Suggestion | undefined {
    return this.findings()[id]?.said?.suggestions.find(({ kind }) => kind === this.kind());
  }

  /** Asks the selected pictures. */
  async find(): Promise<void> {
    const ids = this.model.selection();
    await this.documents.loadHistories(ids);
    const before = this.waiting().length;
    const answers = this.finder.ask(ids, false);
    this.begun.update((begun) => (before === 0 ? 0 : begun) + this.waiting().length - before);
    await answers;
  }

  cancel(): void {
    this.finder.leave(this.waiting());
  }

  /** Makes the lines of all sure ones references: a step in each picture, which {@link takeBack} takes back at once. */
  takeSure(): void {
    if (this.model.refuses()) return;
    const { sure, rest } = this.sorted();
    const { changed, refused } = this.model.change((present, id) => {
      const suggestion = this.suggestion(id);
      if (!suggestion) return present;
      return withFoundLines(present, foundLines(suggestion), suggestion.correction.stance.may, suggestion.kind === 'sheet');
    }, sure);
    this.store.dispatch(findingActions.takenAtOnce({ taken: changed.map((id) => ({ id, version: this.histories()[id]?.version ?? 0 })) }));
    const left = rest.length + refused.length;
    const taken = sure.length - refused.length;
    this.model.said.set({
      text: [
        `${taken} ${taken === 1 ? 'picture has its lines' : 'pictures have their lines'} now (${SUGGESTION_NAMES[this.kind()].toLowerCase()}).`,
        ...(left === 0 ? [] : [`${left} ${left === 1 ? 'is' : 'are'} left as before, to be gone through.`]),
        ...new Set(refused),
      ].join(' '),
      trouble: refused.length > 0,
    });
  }

  /** Takes back what was taken last, in all of its pictures. */
  takeBack(): void {
    if (!this.canTakeBack() || this.model.refuses()) return;
    const took = this.took();
    this.store.dispatch(findingActions.takenAtOnce({ taken: [] }));
    for (const { id } of took) this.store.dispatch(correctionActions.undone({ pictureId: id }));
    this.model.said.set({ text: `Taken back in ${took.length} ${took.length === 1 ? 'picture' : 'pictures'}.`, trouble: false });
  }

  setFinds(finds: boolean): void {
    const job = this.model.job();
    if (job) void this.keeper.setFinds(job.id, finds);
  }
}
