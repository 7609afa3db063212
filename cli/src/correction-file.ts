import { parseCorrection, PlumbError, type Correction } from '@able-plumb/core';
import { readBytes } from './files';

/** Reads a JSON file. */
export async function readJson(path: string): Promise<unknown> {
  const text = new TextDecoder().decode(await readBytes(path));
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new PlumbError('not-json', `${path} is not JSON: ${(error as Error).message}.`);
  }
}

/** Reads and checks a correction document. */
export const readCorrection = async (path: string): Promise<Correction> => parseCorrection(await readJson(path));
