/* Compiles the resampling kernel and writes it, as text, to where the computation finds it; with --check only compares. */
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';

const here = dirname(fileURLToPath(import.meta.url));
const target = join(here, '../core/src/raster/kernel-bytes.ts');

let wasm = null;
const { error, stderr } = await asc.main(
  ['assembly/index.ts', '-O3', '--enable', 'simd', '--runtime', 'stub', '--importMemory', '--noAssert', '--outFile', 'kernel.wasm'],
  {
    readFile: (name) => {
      try {
        return readFileSync(join(here, name), 'utf8');
      } catch {
        return null;
      }
    },
    writeFile: (_name, contents) => {
      wasm = contents;
    },
    listFiles: () => [],
  },
);
if (error || !wasm) {
  process.stderr.write(`The kernel does not compile.\n${stderr.toString()}\n`);
  process.exit(1);
}
const text = `/* Made by kernel/build.mjs from kernel/assembly; do not edit. */\nexport const KERNEL_BASE64 =\n  '${Buffer.from(wasm).toString('base64')}';\n`;
if (process.argv.includes('--check')) {
  const same = readFileSync(target, 'utf8') === text;
  if (!same) process.stderr.write('core/src/raster/kernel-bytes.ts is not what kernel/assembly compiles to: npm run kernel.\n');
  process.exit(same ? 0 : 1);
}
writeFileSync(target, text);
