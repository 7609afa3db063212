import { viewOf } from './bytes';

/** Code lengths and values of one Huffman table (ITU-T T.81, annex C), as a look-up by the next 16 bits: length << 8 | value; 0 for none. */
type Table = Uint16Array;

interface Component {
  readonly id: number;
  readonly blocks: number;
  readonly across: number;
  readonly down: number;
}

/**
 * Whether the pixels of a baseline JPEG are all there: its blocks are counted, without being decoded. Decoders fill with grey what is
 * missing, and say nothing.
 *
 * @returns true also for kinds that are not counted (progressive, damaged within): these are judged by their decoders
 */
export function isWhole(bytes: Uint8Array): boolean {
  const view = viewOf(bytes);
  const tables = new Map<number, Table>();
  let components: Component[] = [];
  let [width, height, restart] = [0, 0, 0];
  for (let at = 2; at + 4 <= bytes.length;) {
    if (bytes[at] !== 0xff) return true;
    const marker = bytes[at + 1] as number;
    if (marker === 0xff) {
      at += 1;
      continue;
    }
    const length = view.getUint16(at + 2);
    const data = bytes.subarray(at + 4, at + 2 + length);
    if (marker === 0xc0 || marker === 0xc1) {
      [height, width] = [viewOf(data).getUint16(1), viewOf(data).getUint16(3)];
      components = Array.from({ length: data[5] as number }, (_, i) => {
        const sampling = data[7 + 3 * i] as number;
        return { id: data[6 + 3 * i] as number, blocks: (sampling >> 4) * (sampling & 15), across: sampling >> 4, down: sampling & 15 };
      });
    } else if (marker >= 0xc2 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) return true;
    else if (marker === 0xc4) readTables(data, tables);
    else if (marker === 0xdd) restart = viewOf(data).getUint16(0);
    else if (marker === 0xda) {
      const scanned = data[0] as number;
      // samples in scans of their own are as good as never written
      if (scanned !== components.length || components.length === 0) return true;
      const single = components.length === 1;
      const [h, v] = [Math.max(...components.map((c) => c.across)), Math.max(...components.map((c) => c.down))];
      const units = Math.ceil(width / (8 * (single ? 1 : h))) * Math.ceil(height / (8 * (single ? 1 : v)));
      const coded = components.map((c, i) => {
        const used = data[2 + 2 * i] as number;
        return { blocks: single ? 1 : c.blocks, dc: tables.get(used >> 4), ac: tables.get(16 + (used & 15)) };
      });
      if (coded.some((c) => !c.dc || !c.ac)) return true;
      return countUnits(bytes, at + 2 + length, coded as readonly Coded[], units, restart);
    }
    at += 2 + length;
  }
  return true;
}

interface Coded {
  readonly blocks: number;
  readonly dc: Table;
  readonly ac: Table;
}

function readTables(data: Uint8Array, tables: Map<number, Table>): void {
  for (let at = 0; at + 17 <= data.length;) {
    const kind = data[at] as number;
    const table = new Uint16Array(65536);
    let [code, from] = [0, at + 17];
    for (let length = 1; length <= 16; length += 1) {
      for (let i = 0; i < (data[at + length] as number); i += 1, code += 1, from += 1)
        table.fill((length << 8) | (data[from] as number), code << (16 - length), (code + 1) << (16 - length));
      code <<= 1;
    }
    tables.set((kind >> 4) * 16 + (kind & 15), table);
    at = from;
  }
}

/** Walks through the codes of a scan; false where the data end before the last unit, or a code is none. */
function countUnits(bytes: Uint8Array, start: number, coded: readonly Coded[], units: number, restart: number): boolean {
  let [at, held, count] = [start, 0, 0];
  let ended = false;
  const need = (bits: number): void => {
    while (count < bits) {
      let next = 0;
      if (!ended) {
        next = bytes[at] ?? 0;
        if (next === 0xff) {
          if (bytes[at + 1] === 0) at += 2;
          else {
            ended = true;
            next = 0;
          }
        } else at += 1;
        if (at > bytes.length) ended = true;
      }
      held = ((held << 8) | next) & 0x7fffffff;
      count += 8;
      if (ended) beyond += 8;
    }
  };
  let beyond = 0;
  const code = (table: Table): number => {
    need(16);
    const entry = table[(held >>> (count - 16)) & 0xffff] as number;
    count -= entry >> 8;
    held &= (1 << count) - 1;
    return entry === 0 ? -1 : entry & 255;
  };
  const skip = (bits: number): void => {
    need(bits);
    count -= bits;
    held &= (1 << count) - 1;
  };
  for (let unit = 0; unit < units; unit += 1) {
    if (restart > 0 && unit > 0 && unit % restart === 0) {
      // on to the marker: what is left of the byte before it is filled up
      [held, count, beyond] = [0, 0, 0];
      while (at < bytes.length && !(bytes[at] === 0xff && (bytes[at + 1] as number) >= 0xd0 && (bytes[at + 1] as number) <= 0xd7)) {
        if (bytes[at] === 0xff && bytes[at + 1] === 0xd9) return false;
        at += 1;
      }
      at += 2;
      ended = false;
    }
    for (const { blocks, dc, ac } of coded)
      for (let block = 0; block < blocks; block += 1) {
        const size = code(dc);
        if (size < 0) return false;
        skip(size);
        for (let k = 1; k < 64; k += 1) {
          const run = code(ac);
          if (run < 0) return false;
          if (run === 0) break;
          k += run >> 4;
          skip(run & 15);
        }
        // more was used than what is read ahead: the data ended before
        if (ended && beyond - count > 0) return false;
      }
  }
  return true;
}
