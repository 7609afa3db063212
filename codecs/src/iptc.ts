import { hasAscii, joinBytes, viewOf } from './bytes';

/* IPTC Information Interchange Model 4.2: data sets of a marker, a record, a number, a length and a value. */

const MARKER = 0x1c;
/** The resource of a Photoshop image resource block that holds the data sets (in JPEG: segment APP13; in TIFF: tag 34377). */
const RESOURCE = 0x0404;
const HEAD = 'Photoshop 3.0\0';

/** One data set; `at` and `end` delimit it with its header. */
interface DataSet {
  readonly record: number;
  readonly number: number;
  readonly value: Uint8Array;
  readonly at: number;
  readonly end: number;
}

function dataSets(iim: Uint8Array): DataSet[] {
  const sets: DataSet[] = [];
  for (let at = 0; at + 5 <= iim.length && iim[at] === MARKER;) {
    const length = viewOf(iim).getUint16(at + 3);
    const end = at + 5 + length;
    // lengths beyond 32767 have a form of their own, which nobody writes captions in
    if (length > 0x7fff || end > iim.length) break;
    sets.push({ record: iim[at + 1] as number, number: iim[at + 2] as number, value: iim.subarray(at + 5, end), at, end });
    at = end;
  }
  return sets;
}

/** The data sets of an image resource block, with or without its head; undefined where it has none. */
export function iimOf(block: Uint8Array): Uint8Array | undefined {
  const view = viewOf(block);
  for (let at = hasAscii(block, 0, HEAD) ? HEAD.length : 0; at + 12 <= block.length && hasAscii(block, at, '8BIM');) {
    const name = (block[at + 6] as number) + 1;
    const data = at + 6 + name + (name % 2) + 4;
    if (data > block.length) return undefined;
    const length = view.getUint32(data - 4);
    if (view.getUint16(at + 4) === RESOURCE) return data + length <= block.length ? block.slice(data, data + length) : undefined;
    at = data + length + (length % 2);
  }
  return undefined;
}

/** Data sets as the body of a segment APP13. */
export function asResource(iim: Uint8Array): Uint8Array {
  const head = new TextEncoder().encode(`${HEAD}8BIM`);
  const rest = new Uint8Array(8);
  viewOf(rest).setUint16(0, RESOURCE);
  viewOf(rest).setUint32(4, iim.length);
  return joinBytes([head, rest, iim, new Uint8Array(iim.length % 2)]);
}

/** Record 2, where a picture was taken: content location, city, sublocation, province, country. */
const PLACES: ReadonlySet<number> = new Set([26, 27, 90, 92, 95, 100, 101]);

/** The data sets without those that say where. */
export const withoutPlace = (iim: Uint8Array): Uint8Array =>
  joinBytes(
    dataSets(iim)
      .filter(({ record, number }) => record !== 2 || !PLACES.has(number))
      .map(({ at, end }) => iim.subarray(at, end)),
  );

/** Properties of XMP that mean the same (IPTC Photo Metadata Standard 2023.2, "IIM Mapping"); `list` for several, `words` for a language alternative. */
const TWINS: Readonly<Record<number, { readonly name: string; readonly as: 'text' | 'list' | 'bag' | 'words' }>> = {
  5: { name: 'dc:title', as: 'words' },
  25: { name: 'dc:subject', as: 'bag' },
  40: { name: 'photoshop:Instructions', as: 'text' },
  80: { name: 'dc:creator', as: 'list' },
  85: { name: 'photoshop:AuthorsPosition', as: 'text' },
  90: { name: 'photoshop:City', as: 'text' },
  92: { name: 'Iptc4xmpCore:Location', as: 'text' },
  95: { name: 'photoshop:State', as: 'text' },
  100: { name: 'Iptc4xmpCore:CountryCode', as: 'text' },
  101: { name: 'photoshop:Country', as: 'text' },
  103: { name: 'photoshop:TransmissionReference', as: 'text' },
  105: { name: 'photoshop:Headline', as: 'text' },
  110: { name: 'photoshop:Credit', as: 'text' },
  115: { name: 'photoshop:Source', as: 'text' },
  116: { name: 'dc:rights', as: 'words' },
  120: { name: 'dc:description', as: 'words' },
  122: { name: 'photoshop:CaptionWriter', as: 'text' },
};

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');

/** Record 1, data set 90 says UTF-8 by this escape sequence; else most writers meant Latin 1 (common practice, no published source). */
const UTF8 = '\x1b%G';

/** An XMP packet that says what data sets say, for formats that hold no data sets; undefined where there is nothing to say. */
export function xmpTwin(iim: Uint8Array): Uint8Array | undefined {
  const sets = dataSets(iim);
  const utf8 = sets.some(({ record, number, value }) => record === 1 && number === 90 && new TextDecoder('latin1').decode(value) === UTF8);
  const decoder = new TextDecoder(utf8 ? 'utf-8' : 'latin1');
  const properties = Object.entries(TWINS).flatMap(([number, { name, as }]) => {
    const values = sets
      .filter((set) => set.record === 2 && set.number === Number(number))
      .map(({ value }) => escaped(decoder.decode(value).replace(/\0/g, '')));
    if (values.length === 0) return [];
    const items = values.map((v) => `<rdf:li${as === 'words' ? ' xml:lang="x-default"' : ''}>${v}</rdf:li>`);
    const list = { text: '', list: 'Seq', bag: 'Bag', words: 'Alt' }[as];
    return [
      `<${name}>${list ? `<rdf:${list}>${(as === 'words' ? items.slice(0, 1) : items).join('')}</rdf:${list}>` : values[0]}</${name}>`,
    ];
  });
  if (properties.length === 0) return undefined;
  return new TextEncoder().encode(
    '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">' +
      '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:photoshop="http://ns.adobe.com/photoshop/1.0/" xmlns:Iptc4xmpCore="http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/">' +
      `${properties.join('')}</rdf:Description></rdf:RDF></x:xmpmeta><?xpacket end="w"?>`,
  );
}
