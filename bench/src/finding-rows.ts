import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { newCorrection, whatItSays, type Suggestion } from '@able-plumb/core';
import { readPictureInfo, readPixels } from '@able-plumb/codecs';
import { PLACE_KINDS, placeOf, type Place } from '../../demo/src/places/kinds';
import type { Rows } from './timing';

/** Places that were not looked at while the finding was tuned (that was done on 240 to 383). */
const FIRST = 480;
const PLACES = 120;
const TWENTY_FOUR = fileURLToPath(new URL('../../demo/job/pump-hall-front.jpg', import.meta.url));

/** What pictures of made-up places say, by kind: how many are sure, how many of those are within 0.15 degrees, how many off by more than one. */
export async function findingRows(rows: Rows): Promise<void> {
  const sums = new Map<string, number>();
  const add = (name: string): void => void sums.set(name, (sums.get(name) ?? 0) + 1);
  let [squares, count] = [0, 0];
  for (let seed = FIRST; seed < FIRST + PLACES; seed += 1) {
    const place = placeOf(seed);
    const { width, height } = place.camera;
    add(`${place.kind}, places`);
    for (const suggestion of whatItSays(place.raster, newCorrection({ name: '', width, height, focal35: place.focal35 })).suggestions) {
      const { kind, sure } = suggestion;
      if (kind === 'stand-plumb')
        for (const movement of ['roll', 'tilt'] as const) {
          squares += (offBy(place, suggestion, movement) / (suggestion.sd[movement] as number)) ** 2;
          count += 1;
        }
      if (sure !== 'sure' || kind === 'turn-middle') continue;
      add(`${place.kind}, ${kind} sure`);
      const off = Math.max(offBy(place, suggestion, 'roll'), kind === 'eye-line' ? 0 : offBy(place, suggestion, 'tilt'));
      const swing = kind === 'front' ? offBy(place, suggestion, 'swing') : 0;
      if (off <= 0.15 && swing <= 0.3) add(`${place.kind}, ${kind} within`);
      if (Math.max(off, swing) > 1) add(`${place.kind}, ${kind} off by a degree`);
    }
  }
  for (const kind of PLACE_KINDS)
    for (const [name, value] of [...sums].filter(([n]) => n.startsWith(`${kind},`)).sort()) rows[`finding: ${name}`] = value;
  rows['finding: errors of stand plumb in their own deviations, rms'] = Math.sqrt(squares / count);

  const bytes = new Uint8Array(readFileSync(TWENTY_FOUR));
  const info = await readPictureInfo(bytes, 'pump-hall-front.jpg');
  const pixels = await readPixels(bytes, 'pump-hall-front.jpg', info);
  const correction = newCorrection({ name: '', width: info.width, height: info.height, focal35: info.focal35 });
  const times = Array.from({ length: 5 }, () => {
    const begun = performance.now();
    whatItSays(pixels, correction);
    return performance.now() - begun;
  }).sort((p, q) => p - q);
  rows['finding: 24 megapixels, one thread, after decoding, ms'] = times[2] as number;
}

const offBy = ({ camera }: Place, { stance }: Suggestion, movement: 'roll' | 'tilt' | 'swing'): number =>
  Math.abs(stance[movement] - camera.attitude[movement]);
