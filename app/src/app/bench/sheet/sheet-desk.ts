import { computed, inject, Injectable, signal } from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  followsOutline,
  pieceCorrection,
  pieceName,
  pieceRollDeg,
  sheetOf,
  stemOf,
  withFoundPieces,
  withJoinedPieces,
  withoutPiece,
  withoutSheet,
  withSheet,
  withTurnedPieces,
  type Correction,
  type Piece,
  type Sheet,
} from '@able-plumb/core';
import { SheetKeeper } from '../../keeper/sheet-keeper';
import { contactActions } from '../../state/contact.reducer';
import { correctionsFeature } from '../../state/corrections.reducer';
import { Hand } from '../session/hand';
import { PictureSession } from '../session/picture-session';

const MM_PER_INCH = 25.4;

/** A piece as it is listed. */
export interface ListedPiece {
  readonly piece: Piece;
  readonly number: number;
  readonly name: string;
  readonly size: string;
  /** How it lies. */
  readonly lies: string;
  /** What has to be known of its outline, or of the picture that was made of it; empty for nothing. */
  readonly remark: string;
  readonly correction: Correction;
}

const REMARKS: Readonly<Record<'seen' | 'partly' | 'touches', string>> = {
  seen: '',
  partly: 'not every side is seen: look at it',
  touches: 'may be several prints: cut it, or leave it',
};

/** The opened sheet: its pieces, finding them, and splitting it. */
@Injectable()
export class SheetDesk {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly keeper = inject(SheetKeeper);
  private readonly hand = inject(Hand);
  readonly session = inject(PictureSession);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);

  /** The sheet as it is committed. */
  readonly sheet = computed<Sheet>(() => sheetOf(this.session.own()));
  readonly known = computed(() => this.session.own()?.sheet !== undefined);
  /** What is being done, in words; null for nothing. */
  readonly work = signal<string | null>(null);
  /** What came of it, where there is something to say. */
  readonly said = signal<{ readonly text: string; readonly trouble: boolean } | null>(null);
  /** Pieces that are ticked, to be joined. */
  readonly ticked = signal<readonly string[]>([]);

  readonly ppi = computed(() => this.sheet().ppi ?? null);

  readonly pieces = computed<readonly ListedPiece[]>(() => {
    const [own, sheet, picture] = [this.session.own(), this.sheet(), this.session.picture()];
    if (!own || !picture) return [];
    const changed = this.changedByHand();
    return sheet.pieces.map((piece, i): ListedPiece => {
      const remark = changed.has(piece.id) ? 'its picture was changed by hand: it stays as it is' : REMARKS[piece.how ?? 'seen'];
      return {
        piece,
        number: i + 1,
        name: pieceName(sheet.pattern, stemOf(picture.name), i + 1),
        size: sizeWords(piece, sheet),
        lies: angleWords(pieceRollDeg(piece.corners)),
        remark,
        correction: pieceCorrection(own.picture, piece, sheet),
      };
    });
  });

  /** Pieces whose pictures follow their outlines no longer. */
  private readonly changedByHand = computed<ReadonlySet<string>>(() => {
    const picture = this.session.picture();
    const others = picture ? this.keeper.sharing(picture) : [];
    return new Set(
      others.flatMap(({ id }) => {
        const present = this.histories()[id]?.present;
        return present?.piece && !followsOutline(present) ? [present.piece.id] : [];
      }),
    );
  });

  change(change: Partial<Sheet>): void {
    this.session.changeOwn((own) => withSheet(own, change));
  }

  /** Finds the prints; what stood there goes, as one undo step. */
  async find(taken: Sheet['taken'] = this.sheet().taken): Promise<void> {
    const picture = this.session.picture();
    if (!picture || this.work() !== null || this.session.elsewhere()) return;
    this.work.set('Finding the prints …');
    this.said.set(null);
    const ppi = taken === 'scanned' ? (this.ppi() ?? picture.ppi ?? null) : null;
    const asked = this.session.own()?.sheet;
    try {
      const found = await this.keeper.find(picture, ppi, taken === 'photographed');
      if (this.session.closed) return;
      // what a hand did meanwhile goes before what was found
      if (this.session.own()?.sheet !== asked) {
        this.said.set({
          text: 'Outlines were changed while the prints were sought: they stay as they are. Find again where that is wanted.',
          trouble: false,
        });
        return;
      }
      const pieces = found.pieces.map(({ corners, inner, how }) => ({ corners, how, ...(inner ? { inner } : {}) }));
      this.session.changeOwn((own) => withFoundPieces(own, pieces, { taken, ...(ppi === null ? {} : { ppi }) }));
      if (found.silent !== null)
        this.said.set({ text: `${found.silent} Draw outlines by hand, or say that it is one picture.`, trouble: false });
    } catch (error) {
      this.said.set({ text: `${(error as Error).message} Nothing was changed.`, trouble: true });
    } finally {
      this.work.set(null);
    }
  }

  /** The piece that is worked on, or else all. */
  turn(by: number, id: string | null = this.hand.piece()): void {
    this.session.changeOwn((own) => withTurnedPieces(own, id, by));
  }

  remove(id: string | null = this.hand.piece()): boolean {
    if (id === null) return false;
    this.session.changeOwn((own) => withoutPiece(own, id));
    this.hand.select(null);
    this.ticked.update((all) => all.filter((other) => other !== id));
    return true;
  }

  join(): void {
    const [a, b] = this.ticked();
    if (a === undefined || b === undefined) return;
    this.session.changeOwn((own) => withJoinedPieces(own, a, b));
    this.ticked.set([]);
  }

  tick(id: string, on: boolean): void {
    this.ticked.update((all) => (on ? [...all.filter((other) => other !== id), id] : all.filter((other) => other !== id)));
  }

  /** The next piece, and round again. */
  next(): boolean {
    const ids = this.sheet().pieces.map(({ id }) => id);
    const id = ids[(ids.indexOf(this.hand.piece() ?? '') + 1) % Math.max(1, ids.length)];
    if (id === undefined) return false;
    this.hand.held.set(null);
    this.hand.select(id);
    return true;
  }

  /** No sheet after all: back on the bench. */
  onePicture(): void {
    this.session.changeOwn(withoutSheet);
    void this.router.navigate(['/bench', this.session.id]);
  }

  /** Makes the pictures, and shows them on the contact sheet, selected. */
  async split(): Promise<void> {
    const picture = this.session.picture();
    if (!picture || this.work() !== null || this.session.elsewhere()) return;
    this.work.set('Splitting …');
    this.said.set(null);
    try {
      const { ids } = await this.keeper.split(picture);
      // whoever went on meanwhile stays there
      if (this.session.closed) return;
      this.store.dispatch(contactActions.selected({ ids }));
      await this.router.navigate(['/job', picture.jobId]);
    } catch (error) {
      this.said.set({ text: `${(error as Error).message} What was split before is kept.`, trouble: true });
    } finally {
      this.work.set(null);
    }
  }
}

function sizeWords({ corners, quarterTurns }: Piece, { ppi, taken }: Sheet): string {
  const side = (i: number, j: number): number => Math.hypot(corners[i]![0] - corners[j]![0], corners[i]![1] - corners[j]![1]);
  const sides = [(side(0, 1) + side(3, 2)) / 2, (side(0, 3) + side(1, 2)) / 2];
  const [w, h] = (quarterTurns % 2 === 1 ? sides.reverse() : sides) as [number, number];
  if (ppi === undefined || taken === 'photographed') return `${Math.round(w)} × ${Math.round(h)} px`;
  const mm = (px: number): string => ((px / ppi) * MM_PER_INCH).toFixed(1);
  return `${mm(w)} × ${mm(h)} mm`;
}

const angleWords = (deg: number): string =>
  Math.abs(deg) < 0.005 ? 'straight' : `${Math.abs(deg).toFixed(2)}° ${deg > 0 ? 'anticlockwise' : 'clockwise'}`;
