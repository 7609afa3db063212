/** What a file's name can be made of. */
export interface NameParts {
  /** The original's name without its ending. */
  readonly name: string;
  /** Place in the job, from 1. */
  readonly number: number;
  readonly job: string;
  readonly delivery: string;
  readonly width: number;
  readonly height: number;
  /** When the picture was taken as its metadata write it (2026:04:14 10:41:50), or null. */
  readonly takenAt: string | null;
}

/** The words in braces and what each stands for. */
export const NAME_WORDS: readonly { readonly word: string; readonly means: string; readonly of: (parts: NameParts) => string }[] = [
  { word: 'name', means: 'the original’s name', of: (p) => p.name },
  { word: 'number', means: 'its place in the job, 001', of: (p) => String(p.number).padStart(3, '0') },
  { word: 'job', means: 'the job’s name', of: (p) => p.job },
  { word: 'delivery', means: 'the delivery’s name', of: (p) => p.delivery },
  { word: 'width', means: 'width in px', of: (p) => String(p.width) },
  { word: 'height', means: 'height in px', of: (p) => String(p.height) },
  { word: 'date', means: 'the day it was taken', of: (p) => p.takenAt?.slice(0, 10).replace(/:/g, '-') ?? 'undated' },
];

/** Longest file name without its ending: file systems allow 255 bytes, a letter may take three. */
const LONGEST_NAME = 80;

/** The first word in braces that stands for nothing; null when all are known. */
export function unknownWord(pattern: string): string | null {
  for (const [, word] of pattern.matchAll(/\{([^{}]*)\}/g)) if (!NAME_WORDS.some((w) => w.word === word)) return word as string;
  return null;
}

/** A file name from its pattern, without what file systems refuse; never empty. */
export function fileName(pattern: string, parts: NameParts): string {
  const filled = pattern.replace(/\{([^{}]*)\}/g, (whole, word: string) => NAME_WORDS.find((w) => w.word === word)?.of(parts) ?? whole);
  return safeName(filled) || 'picture';
}

/** Text without what file systems refuse: separators, reserved signs, control characters, dots and spaces at the ends. */
export function safeName(text: string): string {
  const clean = text.replace(/[\\/:*?"<>|\p{Cc}\p{Cf}]/gu, '-').replace(/^[\s.]+|[\s.]+$/g, '');
  return [...clean].slice(0, LONGEST_NAME).join('');
}

/** The name as it is, or with the first number behind it that is free; what is given is taken from then on. */
export function freeName(stem: string, ending: string, taken: Set<string>): string {
  // file systems that ignore case would write one over the other
  for (let n = 1; ; n += 1) {
    const name = `${stem}${n === 1 ? '' : `-${n}`}.${ending}`;
    if (taken.has(name.toLowerCase())) continue;
    taken.add(name.toLowerCase());
    return name;
  }
}

/** A file's name without its ending. */
export const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '') || name;
