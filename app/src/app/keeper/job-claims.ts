import { computed, DOCUMENT, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { jobsFeature } from '../state/jobs.reducer';
import { shelfActions } from '../state/shelf.actions';
import { DocumentKeeper } from './document-keeper';
import { TabChannel } from './tab-channel';

/** A tab that is asked for a job answers within this time, or is taken to be asleep, ms. */
const ANSWER_MS = 2000;
const ASK_AGAIN_MS = 200;

/**
 * A job is written by one tab: the first that shows it. The others follow, and write it once that one is closed, leaves the job, or hands
 * it over.
 */
@Injectable({ providedIn: 'root' })
export class JobClaims {
  private readonly store = inject(Store);
  private readonly keeper = inject(DocumentKeeper);
  private readonly tabs = inject(TabChannel);
  /** None in browsers that have no locks: each tab then writes, and what another one wrote meanwhile is not written over. */
  private readonly locks = inject(DOCUMENT).defaultView?.navigator.locks;
  private readonly shown = signal<string | null>(null);
  private readonly jobsElsewhere = this.store.selectSignal(jobsFeature.selectElsewhere);
  /** Whether the job that is shown here is written by another tab. */
  readonly elsewhere = computed(() => this.jobsElsewhere().includes(this.shown() ?? ''));
  /** The lock of the job that is shown, while this tab has it. */
  private held: { readonly release: () => void; handing: boolean } | null = null;
  private waiting: AbortController | null = null;

  constructor() {
    this.tabs.heard.subscribe((message) => {
      if (message.kind === 'hand-over' && message.jobId === this.shown() && this.held) void this.handOver(message.jobId, message.ask);
    });
  }

  /** This tab shows a job, and writes it if no other does; resolves once that is known. */
  async claim(jobId: string): Promise<void> {
    if (this.shown() === jobId) return;
    await this.leave();
    this.shown.set(jobId);
    const { locks } = this;
    if (!locks) return;
    await new Promise<void>((known) => {
      void locks
        .request(nameOf(jobId), { ifAvailable: true }, (lock) => {
          if (lock) return this.hold(jobId, known);
          this.follow(jobId);
          known();
          return;
        })
        .catch(() => this.lost(jobId));
    });
  }

  /** This tab shows no job, or another one. */
  async leave(): Promise<void> {
    const jobId = this.shown();
    if (jobId === null) return;
    this.shown.set(null);
    this.waiting?.abort();
    this.waiting = null;
    await this.keeper.flush();
    this.keeper.owns(jobId, false);
    this.held?.release();
    this.held = null;
    this.store.dispatch(shelfActions.jobElsewhere({ jobId, elsewhere: false }));
  }

  /** Writes the job here from now on: the tab that does finishes first. */
  async takeOver(): Promise<void> {
    const [jobId, locks] = [this.shown(), this.locks];
    if (jobId === null || !locks) return;
    await this.handedOver(jobId);
    // left meanwhile, or it came here by itself
    if (this.shown() !== jobId || (this.held && !this.held.handing)) return;
    this.waiting?.abort();
    this.waiting = null;
    await new Promise<void>((known) => {
      void locks.request(nameOf(jobId), { steal: true }, () => this.hold(jobId, known)).catch(() => this.lost(jobId));
    });
  }

  /**
   * Asks whoever writes a job to finish; resolves when that is done, when the job came here by itself, or when nobody answers. It is asked
   * again: the job may just be changing hands. Whoever is at it has all the time it needs.
   */
  private handedOver(jobId: string): Promise<void> {
    const ask = crypto.randomUUID();
    return new Promise((answered) => {
      let giveUp = 0;
      const wait = (): void => {
        clearTimeout(giveUp);
        giveUp = setTimeout(done, ANSWER_MS) as unknown as number;
      };
      const listening = this.tabs.heard.subscribe((message) => {
        if (!('ask' in message) || message.ask !== ask) return;
        if (message.kind === 'handed') done();
        else if (message.kind === 'finishing') wait();
      });
      const tell = (): void => {
        if (this.held) done();
        else this.tabs.tell({ kind: 'hand-over', jobId, ask });
      };
      const asking = setInterval(tell, ASK_AGAIN_MS);
      const done = (): void => {
        listening.unsubscribe();
        clearInterval(asking);
        clearTimeout(giveUp);
        answered();
      };
      wait();
      tell();
    });
  }

  /** Holds a job until it is released; what the shelf has of it is read before anything may be done. */
  private async hold(jobId: string, known: () => void): Promise<void> {
    // left while it was asked for
    if (this.shown() !== jobId) return known();
    const { held, released } = newLock();
    this.held = held;
    await this.keeper.followWhole(jobId);
    // it may have been asked for meanwhile
    if (this.held !== held || held.handing) {
      known();
      return released;
    }
    this.keeper.owns(jobId, true);
    this.store.dispatch(shelfActions.jobElsewhere({ jobId, elsewhere: false }));
    known();
    return released;
  }

  /** Another tab writes the job: this one does as soon as it can. */
  private follow(jobId: string): void {
    this.store.dispatch(shelfActions.jobElsewhere({ jobId, elsewhere: true }));
    const waiting = new AbortController();
    this.waiting = waiting;
    void this.locks
      ?.request(nameOf(jobId), { signal: waiting.signal }, () => this.hold(jobId, () => undefined))
      .catch(() => {
        if (!waiting.signal.aborted) this.lost(jobId);
      });
  }

  /** The lock was taken. */
  private lost(jobId: string): void {
    if (this.shown() !== jobId) return;
    this.held = null;
    this.keeper.owns(jobId, false);
    this.follow(jobId);
  }

  private async handOver(jobId: string, ask: string): Promise<void> {
    this.tabs.tell({ kind: 'finishing', jobId, ask });
    // nothing more is done here, and what was done is written
    if (this.held) this.held.handing = true;
    this.store.dispatch(shelfActions.jobElsewhere({ jobId, elsewhere: true }));
    await this.keeper.flush();
    this.keeper.owns(jobId, false);
    this.tabs.tell({ kind: 'handed', jobId, ask });
  }
}

const nameOf = (jobId: string): string => `able-plumb job ${jobId}`;

function newLock() {
  let release = (): void => undefined;
  const released = new Promise<void>((resolve) => (release = resolve));
  return { held: { release, handing: false }, released };
}
