import {
  composeWarp,
  delivered,
  fileName,
  requireSoundStance,
  stemOf,
  type Correction,
  type Delivery,
  type ExportFormat,
  type KeptMetadata,
} from '@able-plumb/core';
import { EXPORT_FORMATS } from '@able-plumb/codecs';
import type { ExportChoice, Job, Picture } from '../state/model';

/** One file to be written: its picture, how, and under which name; or the sentence that says why it cannot be. */
export type PlannedFile = {
  readonly picture: Picture;
  /** What it is called in a list. */
  readonly label: string;
} & (
  | {
      readonly correction: Correction;
      readonly format: ExportFormat;
      readonly kept: KeptMetadata;
      readonly stem: string;
      readonly ending: string;
    }
  | { readonly trouble: string }
);

/** A picture of a job with its committed correction. */
export interface ChosenPicture {
  readonly picture: Picture;
  readonly correction: Correction;
}

/** The format that the form of the Export step stands for. */
export function formatOf(choice: ExportChoice): ExportFormat {
  const most = choice.mostKb === null ? {} : { mostBytes: choice.mostKb * 1000 };
  switch (choice.kind) {
    case 'jpeg':
      return { kind: 'jpeg', quality: choice.quality, chroma: choice.chroma, ...(choice.smallest ? { smallest: true } : {}), ...most };
    case 'png':
      return { kind: 'png', bits: choice.bits };
    case 'tiff':
      return { kind: 'tiff', bits: choice.bits, compression: choice.compression };
    case 'webp':
      return { kind: 'webp', quality: choice.quality, lossless: choice.lossless, ...most };
    case 'avif':
    case 'jxl':
      return { kind: choice.kind, quality: choice.quality, lossless: choice.lossless };
  }
}

/** One way of writing a picture: by the form, or a delivery. */
interface Way {
  readonly name: string;
  readonly pattern: string;
  readonly format: ExportFormat;
  readonly kept: KeptMetadata;
  readonly correction: (own: Correction) => Correction;
}

const wayOf = (d: Delivery): Way => ({ ...d, correction: (own) => delivered(own, d) });

/** Files for pictures, each by the form of the Export step. */
export function plannedByForm(job: Job, pictures: readonly ChosenPicture[], choice: ExportChoice): PlannedFile[] {
  const way: Way = { name: '', pattern: choice.pattern, format: formatOf(choice), kept: choice.kept, correction: (own) => own };
  return pictures.map((chosen) => planned(job, chosen, way));
}

/** Files for pictures, each by its own deliveries; those of a picture without any are none. */
export function plannedByDeliveries(job: Job, pictures: readonly ChosenPicture[], deliveries: readonly Delivery[]): PlannedFile[] {
  return pictures.flatMap((chosen) =>
    deliveries.filter((d) => chosen.correction.deliveries.some((c) => c.id === d.id)).map((d) => planned(job, chosen, wayOf(d))),
  );
}

/** What an export would write, said beforehand: "12 pictures, 31 files; 3 have no delivery." */
export function beforehand(pictures: readonly ChosenPicture[], deliveries: readonly Delivery[], way: 'form' | 'deliveries'): string {
  const files = ({ correction }: ChosenPicture): number =>
    way === 'form' ? 1 : deliveries.filter((d) => correction.deliveries.some((c) => c.id === d.id)).length;
  const counts = pictures.map(files);
  const none = counts.filter((n) => n === 0).length;
  const sum = counts.reduce((a, b) => a + b, 0);
  const words = `${pictures.length} ${pictures.length === 1 ? 'picture' : 'pictures'}, ${sum} ${sum === 1 ? 'file' : 'files'}`;
  return none === 0 ? `${words}.` : `${words}; ${none} ${none === 1 ? 'has' : 'have'} no delivery.`;
}

function planned(job: Job, { picture, correction: own }: ChosenPicture, way: Way): PlannedFile {
  const label = way.name === '' ? picture.name : `${picture.name}, ${way.name}`;
  try {
    const correction = way.correction(own);
    requireSoundStance(correction);
    const { width, height } = composeWarp(correction, correction.picture).outputSize;
    const stem = fileName(way.pattern, {
      name: stemOf(picture.name),
      number: job.pictureIds.indexOf(picture.id) + 1,
      job: job.name,
      delivery: way.name,
      width,
      height,
      takenAt: picture.takenAt,
    });
    return { picture, label, correction, format: way.format, kept: way.kept, stem, ending: EXPORT_FORMATS[way.format.kind].ending };
  } catch (error) {
    return { picture, label, trouble: (error as Error).message };
  }
}
