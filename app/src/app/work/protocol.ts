import {
  PlumbError,
  type BoardCalibration,
  type BoardSize,
  type BoardView,
  type Correction,
  type EdgeFit,
  type ExportFormat,
  type FollowedEdge,
  type FoundSheet,
  type LateralOutcome,
  type LikelyBend,
  type Point,
  type Raster,
  type Rect,
  type Said,
  type Size,
  type View,
} from '@able-plumb/core';
import type { Judged } from './judge';
import { PictureFileError, type ColourSpace, type FileNotes, type Metadata, type PictureInfo } from '@able-plumb/codecs';

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
  /** Memory of a draft that was painted, to be drawn into where it is as large as is wanted: to make it anew for every frame keeps the browser clearing up. */
  readonly into?: ArrayBuffer | null;
}

/** Pixels of a draft, RGBA 8 bit, in the colours of a space. */
export interface PreviewPixels extends Size {
  readonly space: ColourSpace;
  readonly data: Uint8ClampedArray<ArrayBuffer>;
}

/** An original's pixels, the right way up, and its metadata. */
export interface SourcePixels {
  readonly raster: Raster;
  readonly metadata: Metadata;
}

/** A picture whose pixels are decoded already, in memory that threads share. */
export interface Decoded {
  readonly info: PictureInfo;
  readonly raster: Raster;
}

/** What the stage's worker does: the pixels of open pictures. Every call but `open` and `source` needs its picture open. */
export interface StageWork {
  /**
   * @param space what the screen shows
   * @returns what is wrong with its colour profile, in words; null for nothing
   * @throws PictureFileError
   */
  open(pictureId: string, name: string, file: Blob, space: ColourSpace, decoded: Decoded | null): Promise<string | null>;
  preview(request: PreviewRequest): Promise<PreviewPixels>;
  /** Edges near a drawn line, the likeliest first; picture px. */
  snap(pictureId: string, a: Point, b: Point, reachPx: number): Promise<readonly EdgeFit[]>;
  /** Four corners, those in `which` settled on real ones; picture px. */
  corners(pictureId: string, corners: readonly Point[], which: readonly number[], reachPx: number): Promise<readonly Point[]>;
  /** An edge followed between two points, bent or not; null where there is none. */
  follow(pictureId: string, a: Point, b: Point, reachPx: number, bend: LikelyBend | null): Promise<FollowedEdge | null>;
  /** Lateral colour from the edges of an open picture. */
  fringes(pictureId: string, centre: Point): Promise<LateralOutcome>;
  /** A picture that lies open as it is searched for straight things: a smaller copy where it is large; null for any other. */
  searched(pictureId: string): Promise<Raster | null>;
  /** A picture that lies open in the colours of the screen, no longer than so many px where there is such a copy; null for any other. */
  copy(pictureId: string, longEdge: number): Promise<Raster | null>;
  /** The pixels of a picture that lies open; null for any other. */
  source(pictureId: string): Promise<SourcePixels | null>;
}

/** What is found out about a file before it is taken in. */
export interface Inspected {
  readonly info: Omit<PictureInfo, 'metadata'>;
  readonly sha256: string;
  readonly thumbnail: Blob | null;
  /** Its pixels, where they had to be decoded and were asked for. */
  readonly decoded: Decoded | null;
}

/** What the files' worker does: looking into files. */
export interface FilesWork {
  /**
   * @param opens whether it is opened next, so that its pixels are not thrown away
   * @throws PictureFileError
   */
  inspect(name: string, file: Blob, opens: boolean): Promise<Inspected>;
  /** The inner corners of a checkerboard in a picture file; null where the board is not wholly in sight. */
  board(
    name: string,
    file: Blob,
    board: BoardSize,
  ): Promise<{ readonly info: Omit<PictureInfo, 'metadata'>; readonly corners: readonly Point[] | null }>;
  /**
   * The prints on a sheet, and a copy of it that is large enough for small pictures of them.
   * @param ppi pixels an inch; null where they are not known
   * @throws PictureFileError
   */
  sheet(
    name: string,
    file: Blob,
    ppi: number | null,
    photographed: boolean,
  ): Promise<{ readonly found: FoundSheet; readonly thumbnail: Blob | null }>;
  /** Lens and focal length from the corners of several pictures. */
  calibrate(views: readonly BoardView[], across: number, size: Size): Promise<BoardCalibration>;
}

/** What the workers do that find what pictures say by themselves. */
export interface FindWork {
  /** @throws PictureFileError */
  inFile(name: string, file: Blob, correction: Correction): Promise<Said>;
  /** @param picture it, or a smaller copy of it */
  inPixels(picture: Raster, correction: Correction): Promise<Said>;
}

/** A small filled result. */
export interface FillPreviewRequest {
  /** The picture, or a smaller copy of it, in the colours of the screen. */
  readonly source: Raster;
  readonly correction: Correction;
  /** The crop as it was found, plane px. */
  readonly crop: Rect;
  readonly longEdge: number;
}

/** What of a small result was filled, alone; and the same as hatching. Null where nothing was. */
export interface FillPreviewImages {
  readonly filled: Blob | null;
  readonly hatched: Blob | null;
}

/** What the worker does that fills small results. */
export interface FillWork {
  /** @throws PlumbError */
  preview(request: FillPreviewRequest): Promise<FillPreviewImages>;
}

/** What the worker of small results does. */
export interface ThumbnailWork {
  draw(request: ThumbnailRequest): Promise<PreviewPixels>;
  /** What the readings of corrections say, in their order. */
  judge(corrections: readonly Correction[]): Promise<readonly Judged[]>;
}

/**
 * What a render worker is asked. First which part it has: one leads, the others help it, for one picture after the other. The leader has the source or
 * decodes it, shares it with its helpers, and makes the file. Neither result nor file is ever the page's, which would keep it until it tidies up.
 */
export type RenderRequest =
  | { readonly kind: 'lead'; readonly helpers: readonly MessagePort[] }
  | { readonly kind: 'help'; readonly leader: MessagePort }
  | {
      readonly kind: 'make';
      readonly source: SourcePixels | { readonly name: string; readonly file: Blob };
      readonly correction: Correction;
      /** As it was found, plane px. */
      readonly crop: Rect;
      readonly format: ExportFormat;
      readonly notes: Omit<FileNotes, 'metadata' | 'filled'>;
    };

/** What a render worker says; no rows when the source is there. */
export type RenderReply =
  | { readonly kind: 'rows'; readonly rows: number }
  /** What is left is done by the leader alone. */
  | { readonly kind: 'drawn' }
  | { readonly kind: 'filling'; readonly share: number }
  | { readonly kind: 'made'; readonly file: Blob }
  | { readonly kind: 'failed'; readonly error: PlainError };

/** A small result from a picture's small original. */
export interface ThumbnailRequest {
  readonly pictureId: string;
  /** Under what its small original is kept, where several pictures share that. */
  readonly original?: string | undefined;
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
