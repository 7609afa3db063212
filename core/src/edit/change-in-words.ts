import type { Correction } from '../correction/schema';

type Part = { readonly id: string };

/** Same in every value, whatever the order of keys; both are plain data. */
const same = (p: unknown, q: unknown): boolean => p === q || JSON.stringify(p) === JSON.stringify(q);

/** What became of a list: something new, something gone, or something changed; null for nothing. */
function listWords(name: string, plural: string, before: readonly Part[], after: readonly Part[], begun: string): string | null {
  if (same(before, after)) return null;
  const gone = before.filter((p) => !after.some((q) => q.id === p.id)).length;
  const come = after.filter((q) => !before.some((p) => p.id === q.id)).length;
  if (come > 0 && gone === 0) return come === 1 ? `${name} ${begun}` : `${come} ${plural} ${begun}`;
  if (gone > 0 && come === 0) return gone === 1 ? `${name} removed` : `${gone} ${plural} removed`;
  return `${name} changed`;
}

/** What is the first difference between two corrections, in a few words: "line drawn", "crop", "tilt". Empty where there is none. */
export function changeInWords(before: Correction, after: Correction): string {
  const lists = [
    listWords('traced edge', 'traced edges', before.lens.edges, after.lens.edges, 'drawn'),
    lineWords(before, after),
    listWords('panel', 'panels', before.panels, after.panels, 'marked'),
    listWords('length', 'lengths', before.measures, after.measures, 'measured'),
    listWords('shape ring', 'shape rings', before.ease.rings, after.ease.rings, 'drawn'),
    listWords('shim', 'shims', before.ease.shims, after.ease.shims, 'drawn'),
    listWords('edge easing', 'edge easings', before.ease.edges, after.ease.edges, 'added'),
    listWords('guide', 'guides', before.guides, after.guides, 'laid'),
    listWords('keep box', 'keep boxes', before.crop.keep, after.crop.keep, 'drawn'),
    listWords('delivery', 'deliveries', before.deliveries, after.deliveries, 'chosen'),
    listWords('piece', 'pieces', before.sheet?.pieces ?? [], after.sheet?.pieces ?? [], 'outlined'),
  ];
  return lists.find((words) => words !== null) ?? settingWords(before, after);
}

function lineWords({ references: before }: Correction, { references: after }: Correction): string | null {
  const come = after.filter((q) => !before.some((p) => p.id === q.id));
  const words = listWords('line', 'lines', before, after, come.every(({ by }) => by === 'found') ? 'found' : 'drawn');
  if (words !== 'line changed') return words;
  const changed = after.find((line) => !before.some((old) => same(old, line)));
  const old = before.find((line) => line.id === changed?.id);
  if (!changed || !old) return words;
  if (changed.kind !== old.kind) return `line made ${changed.kind}`;
  if (changed.used !== old.used) return changed.used ? 'line taken back in' : 'line set aside';
  return changed.statedAngle !== old.statedAngle ? 'what a line is in reality' : 'line moved';
}

/** What is set by value, in working order. */
function settingWords(before: Correction, after: Correction): string {
  const { stance: s, crop: c } = before;
  const { stance: t, crop: d } = after;
  const turned = (['tilt', 'swing', 'roll'] as const).find((m) => s.adjust[m] !== t.adjust[m]);
  const settings: readonly (readonly [string, boolean])[] = [
    ['how the sheet is split', !same(before.sheet, after.sheet)],
    ['quarter turn', s.quarterTurns !== t.quarterTurns],
    ['flip', s.flipX !== t.flipX || s.flipY !== t.flipY],
    ['front', s.front !== t.front],
    ['what the lines may do', s.may !== t.may],
    ['lens', !same(before.lens, after.lens)],
    ['focal length or optical centre', !same(before.camera, after.camera)],
    [turned ?? '', turned !== undefined],
    ['strength', !same(s.strength, t.strength)],
    ['what is held back', !same(s.aim, t.aim)],
    ['corner pull', !same(s.pull, t.pull)],
    ['aspect', s.aspect !== t.aspect],
    ['shear', s.shear !== t.shear],
    ['stance', !same(s, t)],
    ['projection easing', !same(before.ease, after.ease)],
    ['proportions', c.ratio !== d.ratio],
    ['empty edges', c.edges !== d.edges],
    ['how empty edges are filled', !same(c.fill, d.fill)],
    ['crop', !same(c, d)],
    ['output', !same(before.output, after.output)],
  ];
  return settings.find(([, is]) => is)?.[0] ?? '';
}
