import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { PositionMap, Raster } from '@able-plumb/core';

/** What OpenCV takes for the same pixels on one thread, ns a pixel. */
export type ReferenceFigures = Readonly<Record<'linear' | 'cubic' | 'lanczos4', number>>;

/**
 * Times OpenCV's `remap` (Debian's python3-opencv) on rows of the same output; the making of its map is not counted.
 * @param source RGB, 8 or 16 bit
 * @returns null where Python or the library is missing
 */
export function referenceFigures(
  source: Raster,
  map: PositionMap,
  width: number,
  fromRow: number,
  rows: number,
  repeats: number,
): ReferenceFigures | null {
  const folder = mkdtempSync(join(tmpdir(), 'plumb-bench-'));
  try {
    const positions = new Float32Array(width * rows * 2);
    const p = new Float64Array(2);
    for (let j = 0, k = 0; j < rows; j += 1) {
      for (let i = 0; i < width; i += 1, k += 2) {
        const there = map(i + 0.5, fromRow + j + 0.5, p);
        positions[k] = there ? (p[0] as number) - 0.5 : -1e4;
        positions[k + 1] = there ? (p[1] as number) - 0.5 : -1e4;
      }
    }
    const [pixels, maps] = [join(folder, 'source.rgb'), join(folder, 'map.f32')];
    writeFileSync(pixels, source.data);
    writeFileSync(maps, positions);
    const script = fileURLToPath(new URL('./reference.py', import.meta.url));
    const bits = source.data instanceof Uint16Array ? 16 : 8;
    const numbers = [source.width, source.height, maps, width, rows, repeats, bits].map(String);
    return JSON.parse(
      execFileSync('python3', [script, pixels, ...numbers], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] }),
    ) as ReferenceFigures;
  } catch {
    process.stderr.write('OpenCV is not measured: apt-get install python3-opencv.\n');
    return null;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
