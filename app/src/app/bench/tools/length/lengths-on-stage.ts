import { midpoint, type Point } from '@able-plumb/core';
import { lineOnScreen } from '../kit/on-screen';
import type { ToolContext } from '../tool-context';

/** A measured length as the stage draws it, screen px. */
export interface LengthOnStage {
  readonly id: string;
  readonly a: Point;
  readonly b: Point;
  readonly middle: Point;
  readonly text: string;
}

export function lengthsOnStage(tool: ToolContext): readonly LengthOnStage[] {
  const measures = tool.document()?.measures ?? [];
  const step = tool.step();
  if (measures.length === 0 || !tool.marks() || (step !== 'references' && step !== 'stance')) return [];
  const readings = tool.readings()?.measures ?? [];
  return measures.flatMap((m, i) => {
    const line = lineOnScreen(tool, m.a, m.b);
    return line ? [{ id: m.id, ...line, middle: midpoint(line.a, line.b), text: readings[i]?.text ?? 'no scale' }] : [];
  });
}
