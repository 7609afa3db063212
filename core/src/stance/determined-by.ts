import type { Correction, Reference } from '../correction/schema';
import type { TrueLine } from './true-lines';

/** A movement that references can determine. */
export type Movement = 'roll' | 'tilt' | 'swing';

/** The table of what is determined by what, narrowed by what the lines may do; docs/decisions/geometry.md. */
export function determinedBy(lines: readonly TrueLine[], { stance, camera }: Correction): Movement[] {
  const count = (kind: Reference['kind']): number => lines.filter((line) => line.kind === kind).length;
  const [plumbs, levels, returns, eyes] = [count('plumb'), count('level'), count('return'), count('eye')];
  if (camera.flat || (lines.length === 1 && eyes === 0)) return ['roll'];
  const tilt = plumbs >= 2 || eyes >= 1 || (plumbs >= 1 && (levels >= 1 || returns >= 1)) || (levels >= 2 && returns >= 1);
  if (stance.may === 'stand-plumb') return tilt ? ['roll', 'tilt'] : ['roll'];
  const swing = levels >= 2 || returns >= 1 || (plumbs >= 1 && levels >= 1) || (eyes >= 1 && levels >= 1);
  return ['roll', ...(tilt ? (['tilt'] as const) : []), ...(swing ? (['swing'] as const) : [])];
}

/** Directions that two or more lines show, or an eye line together with another kind: their vanishing points can be found. */
export function directionsSeen(lines: readonly TrueLine[]): number {
  const count = (kind: Reference['kind']): number => lines.filter((line) => line.kind === kind).length;
  return (['plumb', 'level', 'return'] as const).filter((kind) => count(kind) >= 2).length + (count('eye') > 0 ? 1 : 0);
}
