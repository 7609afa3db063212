import { readCorrection } from '../correction-file';
import { printed, saidBy } from '../said-by';
import { parseArguments, requirePositions, textOption } from '../usage';

/** `suggest PICTURE [--correction FILE]`: what the picture itself says of how its camera stood, the best first, and why the rest is silent. */
export async function suggest(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(args, ['correction']);
  const [path] = requirePositions(parsed, 1, 'suggest PICTURE [--correction FILE]');
  const base = textOption(parsed, 'correction');
  const { suggestions, silent } = await saidBy(path as string, base === undefined ? null : await readCorrection(base));
  return { suggestions: suggestions.map(printed), silent };
}
