import type { Correction } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/**
 * Removes what is selected, where it is one of these.
 * @param among the things of a document that may be meant
 * @param without the document without one of them
 * @returns false where something else is selected
 */
export function removeSelected(
  tool: ToolContext,
  among: (c: Correction) => readonly { readonly id: string }[],
  without: (c: Correction, id: string) => Correction,
): boolean {
  const [document, id] = [tool.document(), tool.selection.id()];
  if (!document || id === null || !among(document).some((thing) => thing.id === id)) return false;
  tool.commit((c) => without(c, id));
  tool.selection.select(null);
  return true;
}
