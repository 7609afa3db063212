/* Compiles the kernels and writes them, as text, to where the computation finds them; with --check only compares. */
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';

const here = dirname(fileURLToPath(import.meta.url));
const KERNELS = [
  { from: 'assembly/index.ts', to: 'core/src/raster/kernel-bytes.ts', name: 'KERNEL_BASE64' },
  { from: 'assembly/fill.ts', to: 'core/src/fill/search-bytes.ts', name: 'SEARCH_BASE64' },
  { from: 'assembly/deflate.ts', to: 'codecs/src/deflate-bytes.ts', name: 'DEFLATE_BASE64' },
  { from: 'assembly/png.ts', to: 'codecs/src/png-bytes.ts', name: 'PNG_BASE64' },
  { from: 'assembly/unpack.ts', to: 'codecs/src/unpack-bytes.ts', name: 'UNPACK_BASE64' },
  { from: 'assembly/jpeg.ts', to: 'codecs/src/jpeg-bytes.ts', name: 'JPEG_BASE64' },
  { from: 'assembly/jpeg-rows.ts', to: 'codecs/src/jpeg-rows-bytes.ts', name: 'JPEG_ROWS_BASE64' },
];

async function compiled(from) {
  let wasm = null;
  const { error, stderr } = await asc.main(
    [from, '-O3', '--enable', 'simd', '--runtime', 'stub', '--importMemory', '--noAssert', '--outFile', 'kernel.wasm'],
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
  if (!error && wasm) return wasm;
  process.stderr.write(`${from} does not compile.\n${stderr.toString()}\n`);
  return process.exit(1);
}

let same = true;
for (const { from, to, name } of KERNELS) {
  const target = join(here, '..', to);
  const text = `/* Made by kernel/build.mjs from kernel/${from}; do not edit. */\nexport const ${name} =\n  '${Buffer.from(await compiled(from)).toString('base64')}';\n`;
  if (!process.argv.includes('--check')) writeFileSync(target, text);
  else if (readFileSync(target, 'utf8') !== text) {
    process.stderr.write(`${to} is not what kernel/${from} compiles to: npm run kernel.\n`);
    same = false;
  }
}
process.exitCode = same ? 0 : 1;
