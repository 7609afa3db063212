import { XMLParser } from 'fast-xml-parser';

/** Elements without their prefixes; text stays text, and no entity but the five of XML is known. */
const parser = new XMLParser({
  removeNSPrefix: true,
  ignoreAttributes: true,
  parseTagValue: false,
  processEntities: false,
  trimValues: true,
});

/** Longest document that is read, characters. */
const LONGEST = 1e6;

/**
 * A document of elements as nested objects; what repeats is a list.
 * @throws Error for what is no XML, too long, or brings its own entities
 */
export function readXml(text: string): Record<string, unknown> {
  if (text.length > LONGEST) throw new Error('it is too long');
  if (/<!DOCTYPE|<!ENTITY/i.test(text)) throw new Error('it brings its own entities');
  const read: unknown = parser.parse(text, true);
  if (typeof read !== 'object' || read === null) throw new Error('it has no elements');
  return read as Record<string, unknown>;
}

/** What lies under a path of names; lists and single elements alike as a list. */
export function elementsAt(from: unknown, ...path: readonly string[]): unknown[] {
  let here: unknown[] = [from];
  for (const name of path)
    here = here.flatMap((element) => {
      if (typeof element !== 'object' || element === null) return [];
      const child = (element as Record<string, unknown>)[name];
      return child === undefined ? [] : Array.isArray(child) ? (child as unknown[]) : [child];
    });
  return here;
}

/** The first text under a path; null where there is none. */
export function textAt(from: unknown, ...path: readonly string[]): string | null {
  const found = elementsAt(from, ...path).find((element) => typeof element === 'string');
  return typeof found === 'string' ? found : null;
}

/** The first whole number under a path; null where there is none. */
export function wholeAt(from: unknown, ...path: readonly string[]): number | null {
  const text = textAt(from, ...path);
  return text !== null && /^\d{1,9}$/.test(text) ? Number(text) : null;
}

/** Text as it stands in a document. */
export const escaped = (text: string): string => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
