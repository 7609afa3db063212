import type { Correction } from '../correction/schema';
import type { Size } from '../picture/point';
import { bendsInWords } from './bends';
import type { Readings, ReferenceReading } from './readings';
import { focalWords } from './focal-words';
import { verdictInWords } from './verdict';
import { degreesText, kindNames, lineAngleInWords, stanceInWords } from './words';

/** What a check page is made of. */
export interface CheckPage {
  readonly correction: Correction;
  readonly readings: Readings;
  readonly outputSize: Size;
  /** Both pictures as data URLs. */
  readonly before: string;
  readonly after: string;
  /** When the check was made, in words. */
  readonly madeAt: string;
  /** What the picture's other edges say to it, in words; empty where they were not asked. */
  readonly secondOpinion?: string;
}

const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const escaped = (text: string): string => text.replace(/[&<>"']/g, (c) => ENTITIES[c] as string);

const LENS_WORDS: Readonly<Record<Correction['lens']['from'], string>> = {
  nobody: 'straightened',
  hand: 'bent by hand',
  profile: 'straightened by its profile',
  edges: 'straightened by traced edges',
};

/** The lens of a correction in words. */
function lensWords({ lens }: Correction): string {
  return !lens.on || lens.model.kind === 'none' ? 'nothing straightened' : LENS_WORDS[lens.from];
}

const row = (cells: readonly string[], tag: 'td' | 'th' = 'td'): string =>
  `<tr>${cells.map((cell) => `<${tag}>${escaped(cell)}</${tag}>`).join('')}</tr>`;

const table = (head: readonly string[], rows: readonly (readonly string[])[]): string =>
  rows.length === 0 ? '' : `<table><thead>${row(head, 'th')}</thead><tbody>${rows.map((cells) => row(cells)).join('')}</tbody></table>`;

/** Why a line does not count, where it does not. */
const countedWords = ({ used, counts, waits }: ReferenceReading): string =>
  !used ? ' (set aside)' : waits ? ' (not told what it is)' : counts ? '' : ' (not counted)';

function referenceRow(r: ReferenceReading, names: ReturnType<typeof kindNames>): readonly string[] {
  return [
    `${names[r.kind]} ${r.number}${countedWords(r)}`,
    lineAngleInWords(r.kind, r.beforeDeg),
    r.afterDeg === null ? 'no image' : degreesText(r.afterDeg),
    r.offDeg === null ? '' : degreesText(r.offDeg),
    r.offPx === null ? '' : `${r.offPx.toFixed(1)} px`,
  ];
}

const shimWords = ({ count, largestArea, smallestArea }: NonNullable<Readings['shims']>): string =>
  `${count === 1 ? 'one part was' : `${count} parts were`} moved by ${count === 1 ? 'a shim' : 'shims'}: up to ${largestArea.toFixed(2)} times as large, down to ${smallestArea.toFixed(2)}`;

const filledWords = ({ crop: { fill } }: Correction, share: number): string =>
  `${(share * 100).toFixed(1)} % of the result was not taken: it is filled from the picture’s own surroundings${fill.lines.length > 0 ? `, ${fill.lines.length === 1 ? 'one line' : `${fill.lines.length} lines`} going straight on` : ''}`;

/**
 * The check of a picture as one HTML page that needs nothing else: both pictures, every reference before and after, the stance with its
 * uncertainty, what it cost. For a client, an archive, or the next person.
 */
export function checkPage({ correction, readings, outputSize, before, after, madeAt, secondOpinion = '' }: CheckPage): string {
  const { picture, stance, camera } = correction;
  const name = escaped(picture.name || 'picture');
  const names = kindNames(camera.flat ? 'sheet' : stance.front);
  const { cost } = readings;
  const verdict = verdictInWords(readings.verdict, correction);
  const facts: readonly (readonly [string, string])[] = [
    ['How the camera stood', stanceInWords(readings.attitude, readings.sd)],
    ...(secondOpinion === '' ? [] : [['Second opinion', secondOpinion] as const]),
    ['Focal length', focalWords(correction, readings)],
    ['Lens', lensWords(correction)],
    ...(readings.bends ? [['Eased', bendsInWords(readings.bends)] as const] : []),
    ...(readings.shims ? [['Shims', shimWords(readings.shims)] as const] : []),
    ...(readings.filled > 0 ? [['Filled', filledWords(correction, readings.filled)] as const] : []),
    ['Kept of the original', `${(cost.kept * 100).toFixed(1)} %`],
    ['Greatest enlargement', `${cost.peakEnlargement.toFixed(2)} times`],
    ['Original', `${picture.width} × ${picture.height} px`],
    ['Result', `${outputSize.width} × ${outputSize.height} px, resampled once from the original`],
    ['Checked', madeAt],
  ];
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<title>Check of ${name}</title>
<style>
body { margin: 32px auto; max-width: 1180px; padding: 0 24px; background: #efede8; color: #1f2326; font: 15px/1.45 sans-serif; font-variant-numeric: tabular-nums; }
h1 { font-size: 24px; margin: 0 0 4px; } h2 { font-size: 16px; margin: 28px 0 6px; }
.verdict { font-size: 18px; margin: 0 0 20px; }
.pair { display: grid; grid-template-columns: 1fr 1fr; gap: 18px; align-items: start; }
figure { margin: 0; } img { display: block; width: 100%; background: #8c8c8c; } figcaption { padding-top: 4px; color: #5c6166; }
table { border-collapse: collapse; min-width: 60%; background: #fff; } th, td { text-align: left; padding: 5px 14px 5px 10px; border-bottom: 1px solid #d3cfc6; } th { font-weight: 600; color: #5c6166; }
dl { display: grid; grid-template-columns: max-content 1fr; gap: 4px 18px; margin: 0; } dt { color: #5c6166; } dd { margin: 0; }
</style>
<h1>${name}</h1>
<p class="verdict" data-state="${readings.verdict.state}"><strong>${escaped(verdict.main)}</strong>${verdict.detail === '' ? '' : ` ${escaped(verdict.detail)}`}</p>
<div class="pair">
<figure><img src="${escaped(before)}" alt="The original"><figcaption>The original</figcaption></figure>
<figure><img src="${escaped(after)}" alt="The result"><figcaption>The result</figcaption></figure>
</div>
<h2>References</h2>
${
  table(
    ['Line', 'before', 'after', 'off', 'at its ends'],
    readings.references.map((r) => referenceRow(r, names)),
  ) || '<p>No lines were drawn.</p>'
}
${readings.edges.length === 0 ? '' : '<h2>Edges traced for the lens</h2>'}
${table(
  ['Edge', 'bow before', 'bow after'],
  readings.edges.map((e) => [
    `Edge ${e.number}`,
    `${e.beforePx.toFixed(1)} px`,
    e.afterPx === null ? 'no image' : `${e.afterPx.toFixed(1)} px`,
  ]),
)}
<h2>Figures</h2>
<dl>${facts.map(([key, value]) => `<dt>${escaped(key)}</dt><dd>${escaped(value)}</dd>`).join('')}</dl>
<p>Made with Able Plumb. The original file was not changed.</p>
</html>
`;
}
