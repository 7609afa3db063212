import {
  PlumbError,
  type BoardCalibration,
  type BoardSize,
  type BoardView,
  type Correction,
  type EdgeFit,
  type ExportFormat,
  type FollowedEdge,
  type LateralOutcome,
  type LikelyBend,
  type Point,
  type Raster,
  type Rect,
  type Size,
  type View,
} from '@able-plumb/core';
import { PictureFileError, type FileNotes, type Metadata, type PictureInfo } from '@able-plumb/codecs';

/** A draft of what the stage shows. `sharp` reads the original's own pixels (the loupe, and views beyond its size). */
export interface PreviewRequest {
  readonly pictureId: string;
  readonly correction: Correction;
  readonly view: View;
  /** Device pixels a screen pixel. */
  readonly density: number;
  readonly sharp: boolean;
  /** Shadows opened and highlights pulled down, for the view only. */
  readonly workLight: boolean;
}

/** Pixels of a draft, RGBA 8 bit. */
export interface PreviewPixels extends Size {
  readonly data: Uint8ClampedArray<ArrayBuffer>;
}

/** An original's pixels, the right way up, and its metadata. */
export interface SourcePixels {
  readonly raster: Raster;
  readonly metadata: Metadata;
}

/** What the picture worker is asked, by kind; each kind has one answer. */
export interface PictureRequests {
  inspect: {
    readonly ask: { readonly name: string; readonly file: Blob };
    readonly answer: { readonly info: Omit<PictureInfo, 'metadata'>; readonly sha256: string; readonly thumbnail: Blob | null };
  };
  open: { readonly ask: { readonly pictureId: string; readonly name: string; readonly file: Blob }; readonly answer: Size };
  preview: { readonly ask: PreviewRequest; readonly answer: PreviewPixels };
  /** Edges near a drawn line, the likeliest first; picture px. */
  snap: {
    readonly ask: { readonly pictureId: string; readonly a: Point; readonly b: Point; readonly reachPx: number };
    readonly answer: readonly EdgeFit[];
  };
  /** Four corners, those in `which` settled on real ones; picture px. */
  corners: {
    readonly ask: {
      readonly pictureId: string;
      readonly corners: readonly Point[];
      readonly which: readonly number[];
      readonly reachPx: number;
    };
    readonly answer: readonly Point[];
  };
  /** An edge followed between two points, bent or not; null where there is none. */
  follow: {
    readonly ask: {
      readonly pictureId: string;
      readonly a: Point;
      readonly b: Point;
      readonly reachPx: number;
      readonly bend: LikelyBend | null;
    };
    readonly answer: FollowedEdge | null;
  };
  /** Lateral colour from the edges of an open picture. */
  fringes: { readonly ask: { readonly pictureId: string; readonly centre: Point }; readonly answer: LateralOutcome };
  /** The inner corners of a checkerboard in a picture file; null where the board is not wholly in sight. */
  board: {
    readonly ask: { readonly name: string; readonly file: Blob; readonly board: BoardSize };
    readonly answer: { readonly info: Omit<PictureInfo, 'metadata'>; readonly corners: readonly Point[] | null };
  };
  /** Lens and focal length from the corners of several pictures. */
  calibrate: {
    readonly ask: { readonly views: readonly BoardView[]; readonly across: number; readonly size: Size };
    readonly answer: BoardCalibration;
  };
  /** The pixels of a picture that lies open; null for any other. */
  source: { readonly ask: { readonly pictureId: string }; readonly answer: SourcePixels | null };
}

export type PictureRequestKind = keyof PictureRequests;

/**
 * What a render worker is asked. One leads: it has the source or decodes it, makes room for the result, shares both with its helpers, and encodes.
 * The result is never the page's, which would keep it until it tidies up; the leader's memory ends with it.
 */
export type RenderRequest =
  | {
      readonly kind: 'lead';
      readonly source: SourcePixels | { readonly name: string; readonly file: Blob };
      readonly correction: Correction;
      /** As it was found, plane px. */
      readonly crop: Rect;
      /** Whether the file to come has alpha. */
      readonly alpha: boolean;
      readonly helpers: readonly MessagePort[];
    }
  | { readonly kind: 'help'; readonly leader: MessagePort }
  | { readonly kind: 'encode'; readonly format: ExportFormat; readonly notes: Omit<FileNotes, 'metadata'> };

/** What a render worker says; no rows when the source is there. */
export type RenderReply =
  | { readonly kind: 'rows'; readonly rows: number }
  | { readonly kind: 'rendered' }
  | { readonly kind: 'encoded'; readonly file: Uint8Array<ArrayBuffer> }
  | { readonly kind: 'failed'; readonly error: PlainError };

/** A small result from a picture's small original. */
export interface ThumbnailRequest {
  readonly pictureId: string;
  readonly thumbnail: Blob;
  readonly correction: Correction;
  /** Longer side of the result, px. */
  readonly longEdge: number;
}

/** An error on its way between threads; keeps its class and code. */
export interface PlainError {
  readonly name: string;
  readonly code: string;
  readonly message: string;
}

export interface Envelope<T> {
  readonly id: number;
  readonly body: T;
}

export type Reply = Envelope<{ readonly ok: true; readonly value: unknown } | { readonly ok: false; readonly error: PlainError }>;

/** Packs an error for another thread. */
export function packError(error: unknown): PlainError {
  if (error instanceof PlumbError) return { name: error.name, code: error.code, message: error.message };
  return { name: 'Error', code: 'unknown', message: error instanceof Error ? error.message : String(error) };
}

/** The error again, as an instance of its family. */
export function unpackError({ name, code, message }: PlainError): Error {
  if (name === 'PictureFileError') return new PictureFileError(code, message);
  return code === 'unknown' ? new Error(message) : new PlumbError(code, message);
}
