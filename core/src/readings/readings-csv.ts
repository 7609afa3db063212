import type { Readings } from './readings';

/** A second opinion by a picture's own edges, in numbers. */
export interface OtherEdges {
  readonly agree: number;
  readonly against: number;
  readonly withinDeg: number;
  readonly offDeg: number | null;
}

/** A field as RFC 4180 has it. */
const field = (value: string | number | null): string => {
  const text = value === null ? '' : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};
const rounded = (value: number | null, digits: number): number | null => (value === null ? null : Number(value.toFixed(digits)));

/**
 * The verdict, references and traced edges as comma-separated values, one a row: what it is, whether it counts (the verdict: its state), angle before and after, how far off in
 * degrees and px, length; for edges the bow before and after; for the picture's other plumb edges how many agree, how many do not, and by how much. Decimal points, lines end in CR LF (RFC 4180).
 */
export function readingsCsv(
  { references, edges, verdict }: Pick<Readings, 'references' | 'edges' | 'verdict'>,
  others: OtherEdges | null = null,
): string {
  const rows: (string | number | null)[][] = [
    [
      'what',
      'number',
      'used',
      'before_deg',
      'after_deg',
      'off_deg',
      'off_px',
      'length_px',
      'bow_before_px',
      'bow_after_px',
      'placed_px',
      'sure_deg',
    ],
    [
      'verdict',
      verdict.line?.number ?? null,
      verdict.state,
      null,
      rounded(verdict.leftDeg, 4),
      rounded(verdict.deg, 4),
      rounded(verdict.line?.px ?? null, 2),
      null,
      null,
      null,
      null,
      rounded(verdict.sureDeg, 4),
    ],
    ...references.map((r) => [
      r.kind,
      r.number,
      r.waits ? 'waits' : !r.used ? 'no' : r.counts ? 'yes' : 'not counted',
      rounded(r.beforeDeg, 4),
      rounded(r.afterDeg, 4),
      rounded(r.offDeg, 4),
      rounded(r.offPx, 2),
      rounded(r.lengthPx, 1),
      null,
      null,
      rounded(r.placedPx, 2),
      null,
    ]),
    ...edges.map((e) => ['edge', e.number, '', null, null, null, null, null, rounded(e.beforePx, 2), rounded(e.afterPx, 2), null, null]),
  ];
  if (others)
    rows.push([
      'other plumb edges',
      others.agree,
      `${others.against} do not agree`,
      null,
      null,
      rounded(others.offDeg, 4),
      ...Array<null>(5).fill(null),
      rounded(others.withinDeg, 4),
    ]);
  return rows.map((row) => `${row.map(field).join(',')}\r\n`).join('');
}
