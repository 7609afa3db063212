/** What a demo picture's camera wrote. */
export interface ExifValues {
  readonly model: string;
  readonly lens?: string | undefined;
  readonly focalMm?: number | undefined;
  readonly focal35?: number | undefined;
  readonly takenAt: string;
  readonly orientation: number;
  readonly width: number;
  readonly height: number;
  readonly ppi: number;
}

type Field = readonly [tag: number, type: 2 | 3 | 4 | 5, value: string | number | readonly [number, number]];

/** An EXIF block (CIPA DC-008) with the values of an invented camera: little-endian TIFF structure without the "Exif" prefix. */
export function exifBlockOf(v: ExifValues): Uint8Array {
  const first: Field[] = [
    [0x010f, 2, 'Beck & Garrow'],
    [0x0110, 2, v.model],
    [0x0112, 3, v.orientation],
    [0x011a, 5, [v.ppi, 1]],
    [0x011b, 5, [v.ppi, 1]],
    [0x0128, 3, 2],
    [0x0132, 2, v.takenAt],
    [0x013b, 2, 'Tarnbeck survey'],
  ];
  const exif: Field[] = [
    [0x9003, 2, v.takenAt],
    [0xa001, 3, 1],
    [0xa002, 4, v.width],
    [0xa003, 4, v.height],
  ];
  if (v.focalMm) exif.push([0x829a, 5, [1, 125]], [0x829d, 5, [8, 1]], [0x8827, 3, 200], [0x920a, 5, [Math.round(v.focalMm * 10), 10]]);
  if (v.focal35) exif.push([0xa405, 3, v.focal35]);
  if (v.lens) exif.push([0xa434, 2, v.lens]);
  const out = new DataView(new ArrayBuffer(2048));
  const bytes = new Uint8Array(out.buffer);
  bytes.set([0x49, 0x49, 42, 0, 8, 0, 0, 0]);
  let spare = 0;
  const directory = (at: number, fields: readonly Field[]): void => {
    const sorted = [...fields].sort((p, q) => p[0] - q[0]);
    spare = at + 2 + 12 * sorted.length + 4;
    out.setUint16(at, sorted.length, true);
    sorted.forEach(([tag, type, value], k) => {
      const p = at + 2 + 12 * k;
      out.setUint16(p, tag, true);
      out.setUint16(p + 2, type, true);
      if (typeof value === 'string') {
        const text = new TextEncoder().encode(`${value}\0`);
        out.setUint32(p + 4, text.length, true);
        if (text.length <= 4) bytes.set(text, p + 8);
        else {
          out.setUint32(p + 8, spare, true);
          bytes.set(text, spare);
          spare += text.length + (text.length % 2);
        }
        return;
      }
      out.setUint32(p + 4, 1, true);
      if (typeof value === 'number') {
        if (type === 3) out.setUint16(p + 8, value, true);
        else out.setUint32(p + 8, value, true);
        return;
      }
      out.setUint32(p + 8, spare, true);
      out.setUint32(spare, value[0], true);
      out.setUint32(spare + 4, value[1], true);
      spare += 8;
    });
  };
  const firstCount = first.length + 1;
  const firstSpace =
    8 +
    2 +
    12 * firstCount +
    4 +
    8 * 2 +
    first.reduce((sum, [, , value]) => sum + (typeof value === 'string' ? value.length + 2 : 0), 0) +
    16;
  const exifAt = firstSpace + (firstSpace % 2);
  directory(exifAt, exif);
  const end = spare;
  directory(8, [...first, [0x8769, 4, exifAt]]);
  return bytes.slice(0, end);
}
