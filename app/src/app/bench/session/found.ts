import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { foundLines, secondOpinion, withFoundLines, type EvidenceLine, type Suggestion } from '@able-plumb/core';
import { Finder } from '../../keeper/finder';
import { findingActions, findingFeature, seenWith } from '../../state/finding.reducer';
import { PictureSession, type Change } from './picture-session';

/** What the opened picture says by itself: its suggestions, the one that is held, and its edges held against what was set. */
@Injectable()
export class Found {
  private readonly store = inject(Store);
  private readonly finder = inject(Finder);
  private readonly session = inject(PictureSession);
  private readonly findings = this.store.selectSignal(findingFeature.selectFindings);
  private readonly asked = this.store.selectSignal(findingFeature.selectAsked);

  /** What was found with the lens and the camera that the picture has; null where it was not asked. */
  private readonly finding = computed(() => {
    const [finding, own] = [this.findings()[this.session.id], this.session.own()];
    return finding && own && finding.seenWith === seenWith(own) ? finding : null;
  });
  readonly busy = computed(() => this.asked().includes(this.session.id));
  readonly known = computed(() => this.finding() !== null);
  readonly refused = computed(() => this.finding()?.refused ?? false);
  readonly suggestions = computed<readonly Suggestion[]>(() => this.finding()?.said?.suggestions ?? []);
  /** Why nothing is suggested, in words; empty where something is. */
  readonly why = computed(() => {
    const finding = this.finding();
    if (!finding || this.suggestions().length > 0) return '';
    return finding.said ? finding.said.silent.map(({ why }) => why).join(' ') : finding.why;
  });

  /** The suggestion that is looked at: its edges are on the stage, and the picture is shown with it. */
  readonly held = signal<Suggestion | null>(null);
  /** Whether suggestions are shown although there are lines, or they were refused. */
  readonly unfolded = signal(false);
  /** Goes on to the next suggestion; there is something that does while they are shown. */
  nextAsked: (() => void) | null = null;
  /** Whether those edges are shown that do not agree with what is set. */
  readonly showsOpinion = signal(false);

  /** The picture's other edges held against what is set. */
  readonly opinion = computed(() => {
    const [said, settled] = [this.finding()?.said, this.session.committed()];
    return said && settled ? secondOpinion(settled, said.witnesses) : null;
  });

  /** The edges that are on the stage. */
  readonly evidence = computed<readonly EvidenceLine[]>(
    () => this.held()?.evidence.lines ?? (this.showsOpinion() ? (this.opinion()?.lines.filter(({ agrees }) => !agrees) ?? []) : []),
  );

  /** With what lens and camera the picture is to be asked: it is open, the job wants it, and what it says with these is not known. Null for not at all. */
  readonly wanted = computed(() => {
    const [ready, job, own] = [this.session.loading().state === 'ready', this.session.job(), this.session.own()];
    return !this.session.sheet && ready && job?.finds !== false && own && !this.known() ? seenWith(own) : null;
  });

  /** Asks the picture, before all others. */
  find(): void {
    void this.finder.ask([this.session.id], true);
  }

  /** Shows a suggestion without taking it; null shows what is set again. */
  hold(suggestion: Suggestion | null): void {
    if (suggestion === this.held()) return;
    this.held.set(suggestion);
    if (suggestion) this.session.preview(taken(suggestion));
    else this.session.cancel();
  }

  /** Makes a suggestion's edges references: one undo step. */
  take(suggestion: Suggestion): void {
    this.held.set(null);
    this.session.commit(taken(suggestion));
  }

  refuse(): void {
    this.hold(null);
    this.store.dispatch(findingActions.refused({ pictureId: this.session.id }));
  }
}

const taken =
  (suggestion: Suggestion): Change =>
  (correction) =>
    withFoundLines(correction, foundLines(suggestion), suggestion.correction.stance.may, suggestion.kind === 'sheet');
