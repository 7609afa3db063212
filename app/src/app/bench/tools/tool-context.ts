import { InjectionToken, type Signal, type WritableSignal } from '@angular/core';
import type { Correction, DraftLine, EdgeFit, FollowedEdge, PlacedByHand, Point, Readings, Rect, View, PlaneWarp } from '@able-plumb/core';
import type { Step, ToolId } from '../../state/model';
import type { Change, Placement } from '../session/picture-session';
import type { Shown } from '../session/shown-warp';

/** A handle in the hand of the keyboard. */
export interface Held<P = unknown> {
  /** The tool whose handle it is. */
  readonly tool: ToolId;
  readonly id: string;
  readonly part: P;
}

/** What is selected, and what the arrow keys move. */
export interface Selection {
  readonly id: Signal<string | null>;
  readonly held: Signal<Held | null>;
  select(id: string | null): void;
  hold(held: Held | null): void;
}

/** What is being drawn with the tool in the hand, by its shape. Another tool begins with nothing. */
export interface Drawing {
  /** The line at the pointer. */
  readonly line: WritableSignal<DraftLine | null>;
  /** The box at the pointer, plane px. */
  readonly box: WritableSignal<Rect | null>;
  /** Points that were placed, picture px. */
  readonly points: WritableSignal<readonly Point[]>;
  /** Lines that were placed, picture px. */
  readonly lines: WritableSignal<readonly (readonly [Point, Point])[]>;
  /** The stroke of a brush, plane px. */
  readonly stroke: WritableSignal<readonly Point[]>;
  /** Whether areas are painted with a brush; boxes else. */
  readonly brush: WritableSignal<boolean>;
}

/** Real edges and corners near what is drawn. */
export interface ToolMagnet {
  /** On, and not let go by its key. */
  holds(): boolean;
  /** How well the hand places at this zoom. */
  byHand(): PlacedByHand;
  /** Edges near a line, best first, picture px; none while the magnet does not hold. */
  edgesNear(a: Point, b: Point): Promise<readonly EdgeFit[]>;
  /** Four corners, those in `which` settled on real ones, picture px. */
  settledCorners(corners: readonly Point[], which: readonly number[]): Promise<readonly Point[]>;
  /** The edge between two points from end to end; null where none is followed. */
  followed(a: Point, b: Point): Promise<FollowedEdge | null>;
  /** Notes what was found for a line that was placed. */
  noteSnapped(id: string, fits: readonly EdgeFit[]): void;
  /** Moves the selected line to the next of the edges near it; false where there is none. */
  nextEdge(): boolean;
}

/** All that a tool may know of the bench, and do to it. */
export interface ToolContext {
  readonly step: Signal<Step>;
  /** The picture is a sheet of prints. */
  readonly sheet: boolean;
  readonly inHand: Signal<ToolId | null>;
  /** The document as it is shown, what moves included. */
  readonly document: Signal<Correction | null>;
  /** The document that a change begins with. */
  readonly committed: Signal<Correction | null>;
  /** What the stage draws: the corrected picture, or the bare original. */
  readonly warp: Signal<PlaneWarp | null>;
  /** The corrected picture with its crop, whatever the stage draws. */
  readonly shown: Signal<Shown | null>;
  readonly readings: Signal<Readings | null>;
  readonly showsOriginal: Signal<boolean>;
  /** The marks are on. */
  readonly marks: Signal<boolean>;
  readonly compare: Signal<'result' | 'wipe' | 'side'>;
  /** Where the wipe stands, share of the stage's width. */
  readonly wipe: WritableSignal<number>;
  readonly view: Signal<View | null>;
  /** Shows another part of the plane from now on. */
  look(view: View): void;
  readonly selection: Selection;
  readonly drawing: Drawing;
  readonly magnet: ToolMagnet;
  /** The plane point under the loupe, and where it is seen; null for no loupe. */
  readonly loupe: WritableSignal<{ readonly at: Point; readonly screen: Point } | null>;
  /** Words beside the pointer while something is dragged, screen px. */
  readonly tag: WritableSignal<{ readonly words: string; readonly at: Point } | null>;
  /** Shows a change without keeping it. */
  preview(change: Change): void;
  /** Makes a change: one undo step, or one with those before it that repeat the same `step`. */
  commit(change: Change, step?: string): void;
  /** Keeps what is shown. */
  commitShown(): void;
  /** Shows again what is committed. */
  cancel(): void;
  /** Makes a change that may be refused: then nothing is changed, and the reason is said. */
  attempt(change: Change, step?: string): void;
  /** Says why something was refused; throws what is no refusal. */
  refused(error: unknown): void;
  /** Commits a change once its answer is there. */
  place<T>(placement: Placement<T>): void;
  /** Changes the picture's own document, however it is shown. */
  changeOwn(change: Change): void;
  /** Says what the pointer would do, or what came of it. */
  say(words: string): void;
  /** Lays the tool down. */
  layDown(): void;
}

export const TOOL_CONTEXT = new InjectionToken<ToolContext>('what tools may know of the bench');
