import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { levelsOf, type Raster } from '@able-plumb/core';
import { encodeJpeg, readPictureInfo, readPixels } from '@able-plumb/codecs';
import { composeHeap, heapTruth, randomHeap, type Heap, type HeapTruth } from '@able-plumb/demo/heaps';

/** The demo job's pictures as old prints. */
const PRINTS = ['pump-hall-front', 'water-tower', 'reservoir', 'engine-hall', 'filter-gallery', 'stair'];
const PRINT_PX = 1400;
/** A white lid, a little yellowed. */
const LID = [240, 239, 234] as const;

/** What is to be scanned. */
export interface Scan {
  readonly seed: number;
  readonly ppi: number;
  readonly grey: boolean;
  readonly widthMm: number;
  readonly heightMm: number;
  readonly prints: number;
}

/** A scanned page: its JPEG, and where its prints truly lie. */
export interface ScannedPage {
  readonly jpeg: Uint8Array;
  readonly width: number;
  readonly height: number;
  readonly truth: readonly HeapTruth[];
}

/** The glass with a heap of prints on it, another one for every seed. */
export class Bed {
  private prints: Promise<readonly Raster[]> | null = null;

  constructor(private readonly folder: string) {}

  async scan({ seed, ppi, grey, widthMm, heightMm, prints: count }: Scan): Promise<ScannedPage> {
    this.prints ??= Promise.all(PRINTS.map((name) => this.print(name)));
    const random = randomHeap({ seed, pictures: await this.prints, ppi, bedMm: [widthMm, heightMm], count });
    // white paper under this lid is seen by its shadow and its tone
    const heap: Heap = { ...random, lid: LID, grain: 0.6, noise: 1.2, falloff: 0.04, sideShadow: 0.08, printShadow: 0.3, dust: 30 };
    const raster = composeHeap(heap);
    const jpeg = await encodeJpeg(grey ? greyed(raster) : raster, { quality: 88, chroma: '4:2:0' }, { ppi });
    return { jpeg, width: raster.width, height: raster.height, truth: heapTruth(heap) };
  }

  private async print(name: string): Promise<Raster> {
    const file = `${name}.jpg`;
    const bytes = new Uint8Array(await readFile(join(this.folder, file)));
    return levelsOf(await readPixels(bytes, file, await readPictureInfo(bytes, file)), PRINT_PX).at(-1) as Raster;
  }
}

/** Weights of luminance. Source: ITU-R BT.601. */
function greyed({ width, height, channels, data }: Raster): Raster {
  const out = new Uint8Array(width * height);
  for (let i = 0, k = 0; i < out.length; i += 1, k += channels)
    out[i] = Math.round(0.299 * (data[k] as number) + 0.587 * (data[k + 1] as number) + 0.114 * (data[k + 2] as number));
  return { width, height, channels: 1, data: out };
}
