import { inject, Injectable } from '@angular/core';
import type { View } from '@able-plumb/core';
import type { ToolContext } from '../tools/tool-context';
import { BenchSwitches } from './bench-switches';
import { Hand } from './hand';
import { Magnet } from './magnet';
import { PictureSession, type Change, type Placement } from './picture-session';
import { ShownPicture } from './shown-picture';
import { StageView } from './stage-view';

/** What tools know of the bench, gathered from its parts. */
@Injectable()
export class BenchToolContext implements ToolContext {
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly stageView = inject(StageView);
  private readonly hand = inject(Hand);
  readonly magnet = inject(Magnet);
  readonly selection = this.hand;
  readonly drawing = this.hand.drawing;
  readonly loupe = this.hand.loupe;
  readonly tag = this.hand.tag;

  readonly step = this.switches.step;
  readonly sheet = this.session.sheet;
  readonly inHand = this.hand.tool;
  readonly document = this.session.correction;
  readonly committed = this.session.committed;
  readonly warp = this.picture.stageWarp;
  readonly shown = this.picture.shown;
  readonly readings = this.picture.readings;
  readonly showsOriginal = this.switches.showsOriginal;
  readonly marks = this.switches.marks;
  readonly compare = this.switches.compare;
  readonly wipe = this.switches.wipe;
  readonly view = this.stageView.view.asReadonly();

  look(view: View): void {
    this.stageView.look(view);
  }

  preview(change: Change): void {
    this.picture.preview(change);
  }

  commit(change: Change, step?: string): void {
    this.session.commit(change, step);
  }

  commitShown(): void {
    this.session.commitShown();
  }

  cancel(): void {
    this.session.cancel();
  }

  attempt(change: Change, step?: string): void {
    this.picture.attempt(change, step);
  }

  refused(error: unknown): void {
    this.picture.refused(error);
  }

  place<T>(placement: Placement<T>): void {
    this.session.place(placement);
  }

  changeOwn(change: Change): void {
    this.session.changeOwn(change);
  }

  say(words: string): void {
    this.hand.hint.set(words);
  }

  layDown(): void {
    this.hand.layDown();
  }
}
