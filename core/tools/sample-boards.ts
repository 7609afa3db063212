import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const INSIDE = 'usr/share/doc/opencv-doc/examples/data/';

/** Folder of OpenCV's sample pictures, checkerboards and photographs (Debian's opencv-doc): installed, or unpacked into .cache by the set-up. */
export function sampleBoards(): string {
  const folders = [`/${INSIDE}`, fileURLToPath(new URL(`../../.cache/opencv-doc/${INSIDE}`, import.meta.url))];
  const found = folders.find((folder) => existsSync(`${folder}left_intrinsics.yml`));
  if (found === undefined) throw new Error('The sample pictures of OpenCV are missing: apt-get install opencv-doc.');
  return found;
}
