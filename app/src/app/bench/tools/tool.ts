import type { Type } from '@angular/core';
import type { Point } from '@able-plumb/core';
import type { Step, ToolId } from '../../state/model';
import type { KeyRow } from '../../keys/key-rows';
import type { IconName } from '../../theme/icons';
import type { Held, ToolContext } from './tool-context';

/** A pointer as plain data: screen px on the stage and the modifiers that matter. */
export interface PointerFacts {
  readonly at: Point;
  readonly shift: boolean;
  readonly alt: boolean;
  /** How far a handle reaches, screen px: more by touch. */
  readonly reach: number;
}

/** The shape of the pointer (CSS cursor), and in words what a press would do. */
export type Hint = readonly [shape: string, words: string];

/** Something that lasts from a press to a release. Every move is computed from the snapshot at its start. */
export interface Gesture {
  move(pointer: PointerFacts): void;
  /** Returns true when the gesture goes on after the release (click, then click). */
  release(pointer: PointerFacts): boolean;
  cancel(): void;
  /** What Enter does at the end of a gesture of the keyboard; a release where it is missing. */
  finish?(): void;
}

/** A point that can be dragged. */
export interface Grip<P = unknown> {
  readonly id: string;
  readonly part: P;
  /** Screen px. */
  readonly at: Point;
}

/** Something on the stage that was hit: a grip, or what lies under the pointer. */
export interface Hit<P = unknown> {
  readonly id: string;
  readonly part: P;
}

/** What of the document a tool draws, and lets be held whether the tool is in the hand or not. */
export interface HandleFamily<P = unknown> {
  /** The points that can be dragged now. */
  grips?(tool: ToolContext): readonly Grip<P>[];
  /** The line or area under a pointer that is near no grip; asked with nothing in the hand. */
  under?(tool: ToolContext, at: PointerFacts): Hit<P> | null;
  /** What a press on it would do. */
  hint(tool: ToolContext, hit: Hit<P>): Hint;
  /** A press on it; null where a click is all that it takes, or where it is gone. */
  drag(tool: ToolContext, hit: Hit<P>, at: PointerFacts): Gesture | null;
  /**
   * Moves what is held, or else what is selected, by a way on the plane, px.
   * @param held null where nothing is held by the keyboard
   * @param repeat names the repeats that make one undo step
   * @returns false where it is none of this family's
   */
  nudge?(tool: ToolContext, held: Held<P> | null, by: Point, repeat: string): boolean;
  /** What the key for the next handle goes round; null holds nothing. Only this, where it belongs to what is selected. */
  round?(tool: ToolContext): { readonly of: 'selected' | 'all'; readonly handles: readonly (Held<P> | null)[] };
  /** Removes what is selected or held; false where it is none of this family's. */
  remove?(tool: ToolContext): boolean;
  /** The thing around a pointer, which a press on nothing selects; null for none. */
  around?(tool: ToolContext, at: PointerFacts): string | null;
}

/** A key that a tool answers beside the one that takes it. */
export interface ToolAction extends KeyRow {
  /** Returns false where it does not apply now. */
  run(tool: ToolContext): boolean;
}

/**
 * Everything that the bench knows of a tool, or of something on the stage that needs no tool. The registry (`index.ts`) makes of these
 * records the keys, the buttons of a step, the hints, what Delete, Enter and the arrow keys do, and what the stage draws.
 */
export interface ToolDefinition {
  readonly id: ToolId;
  readonly step: Step;
  readonly name: string;
  readonly icon?: IconName;
  /** Said by its button, before its key. */
  readonly tip?: string;
  /** The key that takes it. */
  readonly key?: KeyRow;
  readonly actions?: readonly ToolAction[];
  /** On a sheet of prints too, or only there; on the bench only where nothing is said. */
  readonly onSheet?: 'too' | 'only';
  /** It is in the hand as soon as its step opens. */
  readonly armed?: true;
  /** While it is in the hand the stage shows the whole picture, even where the crop is a small part. */
  readonly wholePicture?: true;
  /** What the key for the next handle holds of it is selected too. */
  readonly selectsHeld?: true;
  /** While it is in the hand only its own handles can be dragged. */
  readonly alone?: true;
  /** What Enter does with the pen of the keyboard: a click at a place, or one end of a drag and then the other. */
  readonly enter?: 'click' | 'drag';
  /** With it in the hand, or without any where `atRest` is set; null where it says nothing. */
  hint?(tool: ToolContext, at: PointerFacts): Hint | null;
  /** A press on nothing with it in the hand; null leaves the press to others. */
  begin?(tool: ToolContext, at: PointerFacts): Gesture | null;
  /** It answers presses with nothing in the hand while its step is open. */
  readonly atRest?: true;
  /** The arrow keys with nothing in the hand, for a tool `atRest`; false where they do not apply. */
  nudge?(tool: ToolContext, by: Point, repeat: string): boolean;
  /** A press on a ruler; one tool has it. */
  fromRuler?(tool: ToolContext, axis: 'x' | 'y'): Gesture | null;
  /** Enter while no pen stands on the stage: ends what is drawn by several clicks; false where there is nothing to end. */
  finish?(tool: ToolContext): boolean;
  /** Escape: takes back what was drawn last of several; false where there is nothing. */
  back?(tool: ToolContext): boolean;
  readonly handles?: HandleFamily;
  /** Component with an `svg` element for its host: the marks over the picture. */
  readonly marks?: Type<unknown>;
  /** Component of HTML over the marks. */
  readonly overlay?: Type<unknown>;
}

/** A family whose parts have a type of their own; the stage gives back to it only what came from it. */
export const handleFamily = <P>(family: HandleFamily<P>): HandleFamily => family as HandleFamily;
