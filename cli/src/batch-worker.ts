import { parentPort } from 'node:worker_threads';
import type { Correction, Suggestion, SuggestionKind } from '@able-plumb/core';
import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { exportPicture, type Exported, type ExportOptions } from './export-picture';
import { printed, saidBy, type SaidBy } from './said-by';

/** One picture to work on. */
export interface BatchTask {
  /** What is applied; where the picture itself is asked, what it is looked at with: its own metadata without one. */
  readonly correction: Correction | null;
  /** Which suggestion of the picture is taken, and how sure it has to be. */
  readonly suggest: { readonly kind: SuggestionKind; readonly sureDeg: number } | null;
  readonly picture: string;
  /** Null: nothing is written. */
  readonly out: string | null;
  readonly ending: string;
  readonly options: ExportOptions;
}

/** What became of it: written, only said, left with a reason, or failed. */
export type BatchReply =
  | { readonly exported: Exported; readonly suggestion?: unknown }
  | { readonly suggestion: unknown }
  | { readonly left: string }
  | { readonly error: string };

useNodeCodecs();
useNativeJpeg();
parentPort?.on('message', (task: BatchTask) => {
  const say = (reply: BatchReply): void => parentPort?.postMessage(reply);
  work(task).then(say, (error: Error) => say({ error: error.message }));
});

async function work({ correction, suggest, picture, out, ending, options }: BatchTask): Promise<BatchReply> {
  const how = { threads: 1, fit: 'scale' } as const;
  if (!suggest) return { exported: await exportPicture(correction as Correction, picture, out as string, ending, options, how) };
  const said = await saidBy(picture, correction);
  const taken = sureOne(said, suggest.kind, suggest.sureDeg);
  if (typeof taken === 'string') return { left: taken };
  if (out === null) return { suggestion: printed(taken) };
  const exported = await exportPicture(taken.correction, picture, out, ending, options, { ...how, decoded: said.source });
  const { kind, sure, withinDeg, stance, evidence } = taken;
  return { exported, suggestion: { kind, sure, withinDeg, stance, agree: evidence.agree, against: evidence.against } };
}

/** The suggestion of a kind where it is sure to so many degrees; else why it is not taken. */
function sureOne({ suggestions, silent }: SaidBy, kind: SuggestionKind, sureDeg: number): Suggestion | string {
  const found = suggestions.find((suggestion) => suggestion.kind === kind);
  if (!found) return (silent.find((one) => one.kind === kind) ?? silent[0])?.why ?? 'The picture does not say it.';
  if (found.sure !== 'sure') return `Only likely: within ${found.withinDeg.toFixed(2)} degrees.`;
  return found.withinDeg <= sureDeg ? found : `Sure only to ${found.withinDeg.toFixed(2)} degrees.`;
}
