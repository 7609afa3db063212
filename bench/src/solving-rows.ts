import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { newCorrection, newReference, parseCorrection, solveCorrection, withReferences, type Point } from '@able-plumb/core';
import { timed, type Rows } from './timing';

const size = { width: 6000, height: 4000 };

/** Solving: the pump hall's known edges, twice over with half a pixel of pointing error, twenty lines. */
export function solvingRows(rows: Rows, root: string): void {
  const truth = JSON.parse(readFileSync(join(root, 'demo/job/pump-hall-front.truth.json'), 'utf8')) as {
    readonly edges: readonly { readonly a: Point; readonly b: Point }[];
  };
  const hall = newCorrection({ name: 'hall', ...size, focal35: 20 });
  let noise = 5;
  const off = (p: Point): Point => {
    const next = (): number => ((noise = (noise * 1103515245 + 12345) & 0x7fffffff) / 0x7fffffff - 0.5) * 1.7;
    return [p[0] + next(), p[1] + next()];
  };
  const lines = Array.from({ length: 20 }, (_, i) => truth.edges[i % truth.edges.length] as (typeof truth.edges)[number]);
  const drawn = lines.reduce((c, { a, b }) => withReferences(c, [...c.references, newReference(c, off(a), off(b))]), hall);
  rows['solving twenty lines, focal length known, ms'] = timed(() => void solveCorrection(drawn, size));
  const unknown = parseCorrection({ ...drawn, camera: { ...drawn.camera, focalFrom: 'references' } });
  rows['solving twenty lines and the focal length, ms'] = timed(() => void solveCorrection(unknown, size));
}
