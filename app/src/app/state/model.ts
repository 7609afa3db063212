import type { Correction, Delivery, ExportFormat, KeptMetadata, SettingOutName } from '@able-plumb/core';

/** A named collection of pictures kept together in the browser. */
export interface Job {
  readonly id: string;
  readonly name: string;
  readonly createdAt: number;
  readonly changedAt: number;
  readonly pictureIds: readonly string[];
  readonly lastPictureId: string | null;
  /** Whether pictures are asked what they say by themselves as soon as they are opened; they are where nothing is said. */
  readonly finds?: boolean | undefined;
}

/** One original in a job: what is known of it; the file itself lies on the shelf. */
export interface Picture {
  readonly id: string;
  readonly jobId: string;
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly bytes: number;
  readonly sha256: string;
  readonly format: ExportFormat['kind'];
  readonly bits: 8 | 16;
  readonly camera: string | null;
  readonly lens: string | null;
  readonly focal35: number | null;
  /** Focal length as the metadata write it, mm, and the value of the orientation tag; older records lack both. */
  readonly focalMm?: number | null;
  readonly orientation?: number;
  /** Size that the camera took where the picture was cropped since, px. */
  readonly croppedFrom?: { readonly width: number; readonly height: number } | null;
  /** How the camera stood by its own level, degrees. */
  readonly level?: { readonly roll: number | null; readonly tilt: number | null } | null;
  readonly takenAt: string | null;
  /** Pixels an inch, where the file tells them; older records say nothing. */
  readonly ppi?: number | null;
  /** The picture under whose id the original's file lies, where several pictures are made of one; its own where nothing is said. */
  readonly original?: string;
  /** Pictures of one linked set share one correction; none where it is missing. */
  readonly set?: string;
}

/** The correction of a picture with its undo history. */
export interface History {
  readonly past: readonly Correction[];
  readonly present: Correction;
  readonly future: readonly Correction[];
  /** Counts every change, undo and redo: the larger of two is the newer. */
  readonly version: number;
  /** What the last change was a repeat of, and when it was made (ms): another one soon after is the same step. Null where none can follow. */
  readonly step: { readonly name: string; readonly at: number } | null;
}

/** Why a document is not on the shelf as it is seen. */
export type SaveState = 'waiting' | { readonly failed: string };

export type Step = 'lens' | 'references' | 'stance' | 'ease' | 'crop' | 'check' | 'export';

/** The tool in the hand, by the name in its record (`bench/tools`). */
export type ToolId = string;

/** How result and original are compared at Check. */
export type Compare = 'result' | 'wipe' | 'side';

export type ThemeName = 'light' | 'dim';

/** How the result is written; remembered from picture to picture. */
export interface ExportChoice {
  readonly kind: ExportFormat['kind'];
  readonly quality: number;
  readonly chroma: '4:4:4' | '4:2:0';
  /** A JPEG as small as its quality allows, written many times as slowly. */
  readonly smallest: boolean;
  readonly bits: 8 | 16 | 'as-taken';
  readonly compression: 'none' | 'deflate';
  readonly lossless: boolean;
  readonly kept: KeptMetadata;
  /** Largest file, kB; null for any. */
  readonly mostKb: number | null;
  /** File name without its ending, with words in braces. */
  readonly pattern: string;
}

/** Lines over the crop for composing. */
export interface SettingOutChoice {
  readonly name: SettingOutName;
  /** Into how many parts, where that is chosen. */
  readonly parts: number;
  readonly attitude: number;
  /** Kept in view; else seen only while something moves. */
  readonly peg: boolean;
}

/** Settings of the person, not of a picture. */
export interface Settings {
  readonly theme: ThemeName;
  readonly stageGrey: number;
  /** Whether lines settle on real edges near them. */
  readonly magnet: boolean;
  readonly ownProportions: readonly { readonly name: string; readonly ratio: number }[];
  readonly exportChoice: ExportChoice;
  /** Where several files go. */
  readonly exportTo: 'zip' | 'folder';
  readonly deliveries: readonly Delivery[];
  /** Ids of the deliveries that new pictures have from the start. */
  readonly standingDeliveries: readonly string[];
  readonly settingOut: SettingOutChoice;
  /** How dark the picture is outside the crop while that is changed, 0..1. */
  readonly shade: number;
  /** Width of the bench's side, px; whether it is put away; whether the readings show more than the verdict, as the room allows by default. */
  readonly sideWidth: number;
  readonly sidePut: boolean;
  readonly readings: 'open' | 'folded' | 'room';
  /** Keys that the person chose, by what they ask for. */
  readonly ownKeys: Readonly<Record<string, string>>;
}
