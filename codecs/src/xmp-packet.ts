/** A name in any namespace, whatever prefix that has in the packet. */
const PREFIX = '[\\w.-]+:';
/** What may stand between an attribute's name and its value (XML 1.0, production 25). */
const EQUALS = '\\s*=\\s*';
const VALUE = `(?:"[^"]*"|'[^']*')`;

/**
 * Names under which places are written, in whatever namespace: GPS tags (Exif), latitudes, longitudes and altitudes of makers and of
 * devices in the air, and the structures of where a picture was taken or what it shows (IPTC Photo Metadata Standard, Extension).
 */
const PLACE = '(?:GPS\\w*|\\w*(?:Latitude|Longitude|Longtitude|Altitude)\\w*|LocationShown|LocationCreated|GeoLocation\\w*|Coordinates?)';

export interface XmpPatch {
  readonly width: number;
  readonly height: number;
  /** Whether the position where the picture was taken goes along. */
  readonly position: boolean;
}

/**
 * A packet with orientation 1 and new dimensions, as attributes or elements, and without places where they are not to go along. Everything
 * else stays as it was written. Null for a packet that is no UTF-8: nobody could say what it holds.
 */
export function patchXmp(xmp: Uint8Array, { width, height, position }: XmpPatch): Uint8Array | null {
  let text = textOf(xmp);
  if (text === null) return null;
  const values: Readonly<Record<string, number>> = {
    Orientation: 1,
    ImageWidth: width,
    ImageLength: height,
    PixelXDimension: width,
    PixelYDimension: height,
  };
  for (const [name, value] of Object.entries(values)) {
    text = text
      .replace(new RegExp(`(\\s(?:tiff|exif):${name}${EQUALS}["']\\s*)\\d+`, 'g'), `$1${value}`)
      .replace(new RegExp(`(<(?:tiff|exif):${name}(?:\\s[^>]*)?>\\s*)\\d+`, 'g'), `$1${value}`);
  }
  return new TextEncoder().encode(position ? text : withoutPlaces(text));
}

function withoutPlaces(text: string): string {
  return text
    .replace(new RegExp(`<(${PREFIX}${PLACE})(?:\\s[^>]*)?(?:/>|>[\\s\\S]*?</\\1\\s*>)`, 'gi'), '')
    .replace(new RegExp(`\\s+${PREFIX}${PLACE}${EQUALS}${VALUE}`, 'gi'), '');
}

/**
 * How the camera stood by the open panorama tags of a packet, degrees: roll clockwise, tilt up. Null for what it does not say.
 * Source: Photo Sphere XMP metadata, PosePitchDegrees and PoseRollDegrees, from memory.
 */
export function poseOf(xmp: Uint8Array): { readonly roll: number | null; readonly tilt: number | null } {
  const text = textOf(xmp) ?? '';
  const read = (name: string): number | null => {
    const found = new RegExp(`${PREFIX}${name}(?:${EQUALS}["']|(?:\\s[^>]*)?>)\\s*([-+]?[0-9]*\\.?[0-9]+)`).exec(text);
    const value = found ? Number(found[1]) : NaN;
    return Math.abs(value) <= 90 ? value : null;
  };
  return { roll: read('PoseRollDegrees'), tilt: read('PosePitchDegrees') };
}

function textOf(xmp: Uint8Array): string | null {
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(xmp);
    return text.includes('\0') ? null : text;
  } catch {
    return null;
  }
}

/** Where the properties begin and end in a packet. */
const RDF = /<rdf:RDF\b[^>]*>|<\/rdf:RDF\s*>/g;

/**
 * One packet of a main one and what did not fit into it (XMP specification, part 3: extended XMP): the properties of both in one list. The
 * main one alone where the other cannot be read.
 */
export function withExtension(main: Uint8Array, extension: Uint8Array): Uint8Array {
  const [text, more] = [textOf(main), textOf(extension)];
  if (text === null || more === null) return main;
  const inner = between(more);
  const end = text.lastIndexOf('</rdf:RDF');
  if (inner === null || end < 0) return main;
  const whole = `${text.slice(0, end)}${inner}${text.slice(end)}`;
  return new TextEncoder().encode(
    whole
      .replace(new RegExp(`\\s+${PREFIX}HasExtendedXMP${EQUALS}${VALUE}`, 'g'), '')
      .replace(/<([\w.-]+:HasExtendedXMP)\b[^>]*>[\s\S]*?<\/\1\s*>/g, ''),
  );
}

function between(text: string): string | null {
  const [open, close] = [...text.matchAll(RDF)];
  return open && close ? text.slice(open.index + open[0].length, close.index) : null;
}

/** Small pictures of the picture before, and the room that writers leave for changes: what makes most packets large and means nothing any more. */
export function slimmed(xmp: Uint8Array): Uint8Array {
  const text = textOf(xmp);
  if (text === null) return xmp;
  return new TextEncoder().encode(text.replace(/<([\w.-]+:Thumbnails)\b[^>]*>[\s\S]*?<\/\1\s*>/g, '').replace(/\s{64,}/g, '\n'));
}

/** The packet that says where the rest is: in an extension of this name. */
export const pointingTo = (guid: string): Uint8Array =>
  new TextEncoder().encode(
    '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">' +
      `<rdf:Description rdf:about="" xmlns:xmpNote="http://ns.adobe.com/xmp/note/" xmpNote:HasExtendedXMP="${guid}"/></rdf:RDF></x:xmpmeta><?xpacket end="w"?>`,
  );

/** What a picture is that is put together of captured ones (IPTC NewsCodes, digital source type; from memory). */
const COMPOSITE = 'http://cv.iptc.org/newscodes/digitalsourcetype/compositeCapture';

/**
 * A packet that says that a share of the picture was filled from its surroundings: its digital source type (IPTC Photo Metadata Standard,
 * Extension) and a line of what was done. What it said before of its source type is replaced, everything else stays.
 *
 * @param xmp none, or one that cannot be read: a new one is made
 * @param share 0..1
 */
export function withFilled(xmp: Uint8Array | undefined, share: number): Uint8Array {
  const text = (xmp && textOf(xmp)) ?? '';
  const said =
    `<rdf:Description rdf:about="" xmlns:Iptc4xmpExt="http://iptc.org/std/Iptc4xmpExt/2008-02-29/" xmlns:plumb="urn:able-plumb:file" ` +
    `Iptc4xmpExt:DigitalSourceType="${COMPOSITE}" plumb:FilledShare="${share.toFixed(4)}" ` +
    `plumb:Filled="${(share * 100).toFixed(1)} % of this picture was filled from its surroundings"/>`;
  const end = text.lastIndexOf('</rdf:RDF');
  if (end < 0)
    return new TextEncoder().encode(
      `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">${said}</rdf:RDF></x:xmpmeta><?xpacket end="w"?>`,
    );
  const before = text
    .slice(0, end)
    .replace(new RegExp(`\\s+${PREFIX}(?:DigitalSourceType|FilledShare|Filled)${EQUALS}${VALUE}`, 'g'), '')
    .replace(/<([\w.-]+:DigitalSourceType)\b[^>]*(?:\/>|>[\s\S]*?<\/\1\s*>)/g, '');
  return new TextEncoder().encode(`${before}${said}${text.slice(end)}`);
}
