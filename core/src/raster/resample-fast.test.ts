import { describe, expect, it } from 'vitest';
import * as fc from 'fast-check';
import {
  apartIn,
  bentAt,
  byColours,
  composeWarp,
  GRID_LIMIT_PX,
  kernelName,
  newCorrection,
  parseCorrection,
  resampleRows,
  resampleRowsFast,
  warpGrid,
  FINE_GRID_LIMIT_PX,
  type Correction,
  type FilterName,
  type PositionMap,
  type Raster,
  type WarpGrid,
} from '../index';

/** Noise with soft and hard edges; alpha goes from nothing to full. */
function noisy(width: number, height: number, channels: Raster['channels'], bits: 8 | 16, seed: number): Raster {
  const top = bits === 16 ? 65535 : 255;
  const data = bits === 16 ? new Uint16Array(width * height * channels) : new Uint8Array(width * height * channels);
  let state = seed;
  for (let k = 0; k < data.length; k += 1) {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    data[k] = ((state >> 8) / 0x7fffff) * top;
  }
  return { width, height, channels, data };
}

const stance = fc.record({
  roll: fc.double({ min: -170, max: 170, noNaN: true }),
  tilt: fc.double({ min: -42, max: 42, noNaN: true }),
  swing: fc.double({ min: -35, max: 35, noNaN: true }),
});

function corrected(width: number, height: number, adjust: { roll: number; tilt: number; swing: number }, change: object): Correction {
  const base = newCorrection({ name: 'noise', width, height, focal35: 24 });
  return parseCorrection({ ...base, stance: { ...base.stance, adjust }, crop: { ...base.crop, edges: 'keep' }, ...change });
}

/** Waves of full contrast 150 px long, another way in each channel; 16 bits. Whiter noise shows what 512 phases of a pixel cost. */
function smooth(width: number, height: number, channels: Raster['channels']): Raster {
  const data = new Uint16Array(width * height * channels);
  for (let k = 0; k < data.length; k += 1) {
    const [c, pixel] = [k % channels, Math.floor(k / channels)];
    const along = (pixel % width) * Math.cos(1 + c) + Math.floor(pixel / width) * Math.sin(1 + c);
    data[k] = 32767.5 * (1 + Math.sin((2 * Math.PI * along) / 150 + c));
  }
  return { width, height, channels, data };
}

describe('the quick kernel', () => {
  it('is the one at work here', () => {
    expect(kernelName()).toBe('simd');
  });

  it('is within two 8-bit steps of the plain version, eight in light: filters, channels, alpha, light, backgrounds, borders, empty edges, smaller and larger results', () => {
    const filters: readonly FilterName[] = ['bilinear', 'bicubic', 'mitchell', 'lanczos3'];
    fc.assert(
      fc.property(
        stance,
        fc.constantFrom(...filters),
        fc.constantFrom<Raster['channels']>(1, 2, 3, 4),
        fc.constantFrom<8 | 16>(8, 16),
        fc.constantFrom(70, 150, 420),
        fc.boolean(),
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom<'encoded' | 'linear'>('encoded', 'encoded', 'linear'),
        (adjust, filter, channels, bits, px, transparent, seed, light) => {
          const size = { width: 190, height: 130 };
          const source = noisy(size.width, size.height, channels, bits, seed);
          const c = corrected(size.width, size.height, adjust, {
            output: { size: { kind: 'long-edge', px }, filter },
          });
          let warp;
          try {
            warp = composeWarp(c, size);
          } catch {
            return;
          }
          const { width, height } = warp.outputSize;
          const request = {
            source,
            map: warp.outputToPicture,
            filter,
            light,
            width,
            fromRow: 0,
            toRow: Math.min(height, 150),
            background: transparent ? ('transparent' as const) : channels <= 2 ? [40] : [200, 90, 10],
            outChannels: (transparent && channels === 3 ? 4 : channels) as Raster['channels'],
          };
          const [plain, quick] = [resampleRows(request), resampleRowsFast(request)];
          expect(quick.length).toBe(plain.length);
          // which side of the border a pixel falls on may differ by the grid's allowance
          const p = new Float64Array(2);
          const atBorder = (k: number): boolean => {
            const pixel = Math.floor(k / request.outChannels);
            if (!warp.outputToPicture((pixel % width) + 0.5, Math.floor(pixel / width) + 0.5, p)) return true;
            const [x, y] = [p[0]!, p[1]!];
            return Math.min(Math.abs(x), Math.abs(y), Math.abs(size.width - x), Math.abs(size.height - y)) < GRID_LIMIT_PX;
          };
          // a colour counts as far as it is opaque
          const n = request.outChannels;
          const top = bits === 16 ? 65535 : 255;
          const seen = (samples: Raster['data'], k: number): number =>
            n % 2 === 1 || k % n === n - 1 ? samples[k]! : (samples[k]! * samples[k - (k % n) + n - 1]!) / top;
          let [most, sum] = [0, 0];
          for (let k = 0; k < plain.length; k += 1) {
            const off = Math.abs(seen(plain, k) - seen(quick, k));
            if (off > (bits === 16 ? 514 : 2) && atBorder(k)) continue;
            most = Math.max(most, off);
            sum += off * off;
          }
          const step = bits === 16 ? 257 : 1;
          // alpha, rounded, times colour, rounded; in light a thousandth of a pixel, to which positions are taken, is some steps of black beside white
          expect(most / step).toBeLessThanOrEqual(light === 'linear' && bits === 8 ? 8 : n % 2 === 1 ? 2 : 3);
          expect(Math.sqrt(sum / plain.length) / step).toBeLessThan(0.5);
        },
      ),
      { numRuns: Number(process.env['KERNELS'] ?? 80), seed: 4, endOnFailure: true },
    );
  });

  it('keeps a colour that fades to nothing: as it is as stored, within two steps in light; laid over a background within a step of the plain version', () => {
    const size = { width: 300, height: 60 };
    const source: Raster = { ...size, channels: 4, data: new Uint8Array(size.width * size.height * 4) };
    for (let k = 0; k < size.width * size.height; k += 1) source.data.set([200, 90, 30, Math.max(0, (k % size.width) - 40)], 4 * k);
    const map = (x: number, y: number, out: Float64Array): boolean => ((out[0] = 0.93 * x + 0.04 * y), (out[1] = 0.95 * y), true);
    for (const filter of ['bilinear', 'bicubic', 'mitchell', 'lanczos3'] as const) {
      for (const light of ['encoded', 'linear'] as const) {
        const request = { source, map, filter, light, width: 290, fromRow: 0, toRow: 50 };
        const faded = resampleRowsFast({ ...request, background: 'transparent', outChannels: 4 });
        let [seen, faint, strong] = [0, 0, 0];
        for (let k = 0; k < faded.length; k += 4) {
          if (faded[k + 3]! < 8) continue;
          const off = Math.max(Math.abs(faded[k]! - 200), Math.abs(faded[k + 1]! - 90), Math.abs(faded[k + 2]! - 30));
          if (faded[k + 3]! > 127) strong = Math.max(strong, off);
          else faint = Math.max(faint, off);
          seen += 1;
        }
        expect({ faint: faint <= (light === 'linear' ? 2 : 0), strong, much: seen > 9000 }, `${filter}, ${light}: ${faint}`).toEqual({
          faint: true,
          strong: 0,
          much: true,
        });
        const over = { ...request, background: [10, 20, 250], outChannels: 3 as const };
        const [plain, quick] = [resampleRows(over), resampleRowsFast(over)];
        expect(Math.max(...Array.from(plain, (sample, k) => Math.abs(sample - quick[k]!)))).toBeLessThanOrEqual(1);
      }
    }
  });

  it('of white noise in colours and alpha, what is seen is within a step of the plain version, in light within three, where positions are exact; the nearest pixel is itself, in drafts too', () => {
    const source = noisy(320, 90, 4, 8, 11);
    const map = (x: number, y: number, out: Float64Array): boolean => ((out[0] = 12 + 0.93 * x + 0.04 * y), (out[1] = 12 + 0.95 * y), true);
    for (const filter of ['bilinear', 'bicubic', 'mitchell', 'lanczos3'] as const) {
      for (const light of ['encoded', 'linear'] as const) {
        const request = {
          source,
          map,
          filter,
          light,
          width: 290,
          fromRow: 0,
          toRow: 60,
          background: 'transparent',
          outChannels: 4,
        } as const;
        const [plain, quick] = [resampleRows(request), resampleRowsFast(request)];
        const off = Array.from(plain, (sample, k) => (Math.abs(sample - quick[k]!) * (k % 4 === 3 ? 255 : plain[k | 3]!)) / 255);
        expect(Math.max(...off), `${filter}, ${light}`).toBeLessThanOrEqual(light === 'linear' ? 3 : 1);
        expect(Math.sqrt(off.reduce((sum, d) => sum + d * d, 0) / off.length), `${filter}, ${light}`).toBeLessThan(0.3);
      }
    }
    const nearest = { source, map, filter: 'nearest', width: 290, fromRow: 0, toRow: 60 } as const;
    const clear = { ...nearest, background: 'transparent', outChannels: 4 } as const;
    const over = { ...nearest, background: [10, 20, 250], outChannels: 3 } as const;
    const [words, bytes, laid, plain] = [
      resampleRowsFast(clear),
      resampleRowsFast({ ...clear, draft: true }),
      resampleRowsFast(over),
      resampleRows(over),
    ];
    const p = new Float64Array(2);
    let compared = 0;
    for (let k = 0; k < 290 * 60; k += 1) {
      map((k % 290) + 0.5, Math.floor(k / 290) + 0.5, p);
      const [x, y] = [p[0]!, p[1]!];
      const pixel = source.data.subarray(4 * (Math.floor(y) * 320 + Math.floor(x)), 4 * (Math.floor(y) * 320 + Math.floor(x)) + 4);
      // on which side of a pixel's edge a position falls may differ by half a phase; colour without alpha is nothing
      if (Math.min(Math.abs(x - Math.round(x)), Math.abs(y - Math.round(y))) < 1 / 512 || pixel[3] === 0) continue;
      compared += 1;
      expect([words.subarray(4 * k, 4 * k + 4), bytes.subarray(4 * k, 4 * k + 4)]).toEqual([pixel, pixel]);
      expect(Math.max(...[0, 1, 2].map((c) => Math.abs(laid[3 * k + c]! - plain[3 * k + c]!)))).toBeLessThanOrEqual(1);
    }
    expect(compared).toBeGreaterThan(16_000);
  });

  it('draws colours that lie apart as each by itself, nearly all to the bit and all to a step of 8 bits: filters, depths, alpha, inside and at the rim', () => {
    const size = { width: 3500, height: 400 };
    let together = 0;
    fc.assert(
      fc.property(
        stance,
        fc.constantFrom<FilterName>('bilinear', 'bicubic', 'lanczos3', 'nearest'),
        fc.constantFrom<8 | 16>(8, 16),
        fc.constantFrom(1640, 3500, 5000),
        fc.constantFrom<3 | 4>(3, 4),
        fc.constantFrom(1, 0.9994, 1.002),
        fc.boolean(),
        fc.integer({ min: 1, max: 1e6 }),
        (adjust, filter, bits, px, outChannels, red, draft, seed) => {
          const c = corrected(size.width, size.height, adjust, {
            output: { size: { kind: 'long-edge', px } },
            lens: { lateral: { red, blue: 1.0007 } },
          });
          let warp;
          try {
            warp = composeWarp(c, size);
          } catch {
            return;
          }
          const apart = apartIn(c, [1, 1])!;
          let asked = 0;
          const map: PositionMap = (x, y, out) => {
            asked += 1;
            return warp.outputToPicture(x, y, out);
          };
          const request = {
            source: noisy(size.width, size.height, 3, bits, seed),
            map,
            filter,
            width: warp.outputSize.width,
            fromRow: Math.min(100, warp.outputSize.height - 1),
            toRow: Math.min(warp.outputSize.height, 170),
            background: outChannels === 4 ? ('transparent' as const) : [9, 9, 9],
            outChannels,
            draft,
          };
          const quick = resampleRowsFast({ ...request, apart });
          const once = asked;
          const each = byColours(apart, outChannels, size, map, (through) => resampleRowsFast({ ...request, map: through }));
          if (once < 0.8 * (asked - once)) together += 1;
          const off = each.map((value, k) => Math.abs(value - quick[k]!)).filter((by) => by > 0);
          expect(off.every((by) => by <= (bits === 16 ? 257 : 1))).toBe(true);
          // each may have nodes closer together for itself; and bilinear of 8 bits takes places between pixels more exactly
          if (filter !== 'bilinear' || bits === 16) expect(off.length).toBeLessThan(0.005 * each.length);
        },
      ),
      { numRuns: 24, seed: 12, endOnFailure: true },
    );
    expect(together).toBeGreaterThan(3);
  });

  it('draws up to a rim beyond which a step would lead far out of what it holds of the picture', () => {
    const size = { width: 4000, height: 2600 };
    // near a horizon: up to 200 px a pixel
    const map: PositionMap = (x, y, out) => {
      const [u, v] = [x - 113.5, y - 29];
      const depth = 1 - 0.009168 * u + 0.00792 * v;
      out[0] = 3295.7 + (3.01 * (-0.8293 * u + 0.5588 * v)) / depth;
      out[1] = 646.2 - (3.01 * (0.5588 * u + 0.8293 * v)) / depth;
      return depth > 0.1;
    };
    for (const filter of ['bilinear', 'bicubic', 'lanczos3'] as const)
      for (const channels of [1, 3, 4] as const) {
        const source = noisy(size.width, size.height, channels, 8, 5);
        const request = {
          source,
          map,
          filter,
          width: 227,
          fromRow: 0,
          toRow: 58,
          background: [9, 9, 9],
          outChannels: channels === 1 ? 1 : 3,
        } as const;
        const plain = resampleRows(request);
        expect(Math.max(...resampleRowsFast(request).map((v, k) => Math.abs(v - plain[k]!)))).toBeLessThanOrEqual(2);
      }
  });

  it('draws grey as it draws colours that are all the same, to the bit, bilinear of 8 bits to a step', () => {
    const size = { width: 700, height: 500 };
    fc.assert(
      fc.property(
        stance,
        fc.constantFrom<FilterName>('bilinear', 'bicubic', 'lanczos3', 'nearest'),
        fc.constantFrom<8 | 16>(8, 16),
        fc.constantFrom(260, 700, 1500),
        fc.integer({ min: 1, max: 1e6 }),
        (adjust, filter, bits, px, seed) => {
          const c = corrected(size.width, size.height, adjust, { output: { size: { kind: 'long-edge', px } } });
          const warp = composeWarp(c, size);
          const grey = noisy(size.width, size.height, 1, bits, seed);
          const colour = { ...grey, channels: 3 as const, data: grey.data.slice(0, 0) };
          colour.data = bits === 8 ? new Uint8Array(3 * grey.data.length) : new Uint16Array(3 * grey.data.length);
          colour.data.forEach((_, k) => (colour.data[k] = grey.data[Math.floor(k / 3)]!));
          const request = { map: warp.outputToPicture, filter, width: warp.outputSize.width, fromRow: 0, toRow: warp.outputSize.height };
          const one = resampleRowsFast({ ...request, source: grey, background: [9], outChannels: 1 });
          const three = resampleRowsFast({ ...request, source: colour, background: [9, 9, 9], outChannels: 3 });
          const most = filter === 'bilinear' && bits === 8 ? 1 : 0;
          expect(one.length * 3).toBe(three.length);
          expect(one.every((value, k) => Math.abs(value - three[3 * k]!) <= most)).toBe(true);
        },
      ),
      { numRuns: 24, seed: 13, endOnFailure: true },
    );
  });

  it('in linear light of 8 bits is within a step of the plain version where tones are dark, which have few of its 16 bits', () => {
    const size = { width: 500, height: 300 };
    for (const [filter, px, top] of [
      ['lanczos3', 500, 12],
      ['lanczos3', 210, 30],
      ['bicubic', 700, 4],
    ] as const)
      for (const channels of [1, 3] as const) {
        const noise = noisy(size.width, size.height, channels, 8, px);
        const source = { ...noise, data: noise.data.map((v) => v % (top + 1)) };
        const warp = composeWarp(
          corrected(size.width, size.height, { roll: 3, tilt: 9, swing: 2 }, { output: { size: { kind: 'long-edge', px } } }),
          size,
        );
        const request = {
          source,
          map: warp.outputToPicture,
          filter,
          width: warp.outputSize.width,
          fromRow: 0,
          toRow: warp.outputSize.height,
          background: channels === 1 ? [0] : [0, 0, 0],
          outChannels: channels,
          light: 'linear' as const,
        };
        const [plain, quick] = [resampleRows(request), resampleRowsFast(request)];
        expect(
          plain.every((value, k) => Math.abs(value - quick[k]!) <= 1),
          `${filter}, ${px} px, ${channels} channels`,
        ).toBe(true);
      }
  });

  it('of 16 bits is within 4 of 65535, root mean square 1, where the picture is smooth', () => {
    const size = { width: 700, height: 500 };
    const sources = new Map(([1, 3, 4] as const).map((channels) => [channels, smooth(size.width, size.height, channels)]));
    let tried = 0;
    fc.assert(
      fc.property(
        stance,
        fc.constantFrom<FilterName>('bilinear', 'bicubic', 'mitchell', 'lanczos3'),
        fc.constantFrom<1 | 3 | 4>(1, 3, 3, 4),
        fc.double({ min: -0.08, max: 0.03, noNaN: true }),
        fc.constantFrom(260, 700, 1500),
        (adjust, filter, channels, k1, px) => {
          const c = corrected(size.width, size.height, adjust, {
            output: { size: { kind: 'long-edge', px } },
            lens: { on: true, model: { kind: 'radial', cx: 350, cy: 250, k1, k2: 0.01 } },
          });
          let warp;
          try {
            warp = composeWarp(c, size);
          } catch {
            return;
          }
          const { width, height } = warp.outputSize;
          const fromRow = Math.max(0, (height >> 1) - 48);
          const request = {
            source: sources.get(channels)!,
            map: warp.outputToPicture,
            filter,
            width,
            fromRow,
            toRow: Math.min(height, fromRow + 96),
          };
          const [plain, quick] = [resampleRows, resampleRowsFast].map((resample) =>
            resample({ ...request, background: 'transparent', outChannels: channels }),
          );
          const p = new Float64Array(2);
          let [most, sum] = [0, 0];
          for (let k = 0; k < plain!.length; k += 1) {
            const pixel = Math.floor(k / channels);
            const off = Math.abs(plain![k]! - quick![k]!);
            if (off > 4) {
              const there = warp.outputToPicture((pixel % width) + 0.5, fromRow + Math.floor(pixel / width) + 0.5, p);
              const [x, y] = [p[0]!, p[1]!];
              if (!there || Math.min(Math.abs(x), Math.abs(y), Math.abs(size.width - x), Math.abs(size.height - y)) < GRID_LIMIT_PX)
                continue;
              // next to nothing opaque, a colour is anything
              if (channels === 4 && plain![pixel * 4 + 3]! < 6000) continue;
            }
            most = Math.max(most, off);
            sum += off * off;
          }
          tried += 1;
          expect(most).toBeLessThanOrEqual(4);
          expect(Math.sqrt(sum / plain!.length)).toBeLessThan(1);
        },
      ),
      { numRuns: Number(process.env['WIDE'] ?? 40), seed: 8, endOnFailure: true },
    );
    expect(tried).toBeGreaterThan(20);
  });

  it('stays right when so many widened filters were used that their tables are made anew, in linear light too', () => {
    const source = noisy(190, 130, 3, 8, 3);
    for (let step = 64; step < 6 * 64; step += 1) {
      const scale = step / 64;
      const map = (x: number, y: number, out: Float64Array): boolean => {
        out[0] = 95 + (x - 6) * scale;
        out[1] = 65 + (y - 6) * scale;
        return true;
      };
      const light = step % 2 === 0 ? ('linear' as const) : ('encoded' as const);
      const request = { source, map, filter: 'lanczos3' as const, light, width: 12, fromRow: 0, toRow: 12, outChannels: 3 as const };
      const [plain, quick] = [resampleRows, resampleRowsFast].map((resample) => resample({ ...request, background: [0, 0, 0] }));
      const off = Math.max(...Array.from(plain!, (v, k) => Math.abs(v - quick![k]!)));
      expect(off, `${scale} ${light}`).toBeLessThanOrEqual(2);
    }
  });

  it('takes whole pixels with the nearest one, the same as the plain version, however small the result', () => {
    const size = { width: 190, height: 130 };
    for (const [channels, bits, px] of [
      [3, 8, 420],
      [3, 16, 150],
      [3, 8, 70],
      [4, 8, 150],
      [1, 8, 70],
    ] as const) {
      const source = noisy(size.width, size.height, channels, bits, px);
      const c = corrected(size.width, size.height, { roll: 13, tilt: 21, swing: -9 }, { output: { size: { kind: 'long-edge', px } } });
      const { outputToPicture: map, outputSize } = composeWarp(c, size);
      const { width, height: toRow } = outputSize;
      const request = {
        source,
        map,
        filter: 'nearest' as const,
        light: 'linear' as const,
        width,
        fromRow: 0,
        toRow,
        outChannels: channels,
      };
      const quick = resampleRowsFast({ ...request, background: 'transparent' });
      const p = new Float64Array(2);
      let [whole, between] = [0, 0];
      for (let k = 0; k < width * toRow; k += 1) {
        if (!map((k % width) + 0.5, Math.floor(k / width) + 0.5, p)) continue;
        const [x, y] = [p[0]!, p[1]!];
        // on which side of a pixel's edge a position falls may differ by the grid's allowance and half a phase
        if (Math.min(Math.abs(x - Math.round(x)), Math.abs(y - Math.round(y))) < GRID_LIMIT_PX + 1 / 1024) between += 1;
        else if (x > 0 && y > 0 && x < size.width && y < size.height) {
          const at = (Math.floor(y) * size.width + Math.floor(x)) * channels;
          // colour without alpha is nothing
          const seen = channels < 4 || source.data[at + 3]! > 0;
          if (seen) expect(quick.subarray(k * channels, (k + 1) * channels)).toEqual(source.data.subarray(at, at + channels));
          whole += 1;
        }
      }
      expect(whole).toBeGreaterThan(10 * between);
    }
  });

  it('draws up to where positions have no image, through the middle of a picture and beside it', () => {
    const source = noisy(400, 300, 3, 8, 21);
    for (const [centre, radius] of [
      [[200, 150], 130],
      [[200, 150], 236],
      [[-40, 380], 150],
      [[900, 700], 420],
    ] as const) {
      const map = (x: number, y: number, out: Float64Array): boolean => {
        out[0] = 0.9 * x - 30 + 2e-4 * y * y;
        out[1] = 0.8 * y - 20 + 1e-4 * x * x;
        return Math.hypot(out[0] - centre[0], out[1] - centre[1]) <= radius;
      };
      const request = { source, map, filter: 'bicubic' as const, width: 700, fromRow: 0, toRow: 500, outChannels: 3 as const };
      const [plain, quick] = [resampleRows, resampleRowsFast].map((resample) => resample({ ...request, background: [200, 90, 10] }));
      const p = new Float64Array(2);
      let [most, drawn] = [0, 0];
      for (let k = 0; k < plain!.length; k += 3) {
        const there = map(((k / 3) % 700) + 0.5, Math.floor(k / 3 / 700) + 0.5, p);
        // which side of the border a pixel falls on is the grid's
        if (Math.min(Math.abs(p[0]!), Math.abs(p[1]!), Math.abs(400 - p[0]!), Math.abs(300 - p[1]!)) < GRID_LIMIT_PX) continue;
        if (there && p[0]! > 0 && p[1]! > 0 && p[0]! < 400 && p[1]! < 300) drawn += 1;
        for (let c = k; c < k + 3; c += 1) most = Math.max(most, Math.abs(plain![c]! - quick![c]!));
      }
      expect(most, String(centre)).toBeLessThanOrEqual(2);
      expect(drawn > 0).toBe(centre[0] !== 900);
    }
  });

  it('copies pixels where nothing is to be interpolated, and only there', () => {
    const size = { width: 211, height: 97 };
    const filters: readonly FilterName[] = ['bilinear', 'bicubic', 'lanczos3', 'mitchell'];
    for (const bits of [8, 16] as const) {
      const source = noisy(size.width, size.height, 3, bits, 9);
      const every = (step: number, filter: FilterName) => {
        const map = (x: number, y: number, out: Float64Array): boolean => {
          out[0] = (x - 0.5) * step + 0.5;
          out[1] = (y - 0.5) * step + 0.5;
          return true;
        };
        return { source, map, filter, ...size, fromRow: 0, toRow: 97, background: 'transparent' as const, outChannels: 3 as const };
      };
      for (const filter of filters) {
        if (filter !== 'mitchell') expect(resampleRowsFast(every(1, filter)), `${bits} ${filter}`).toEqual(source.data);
        // a filter that softens, and filters that are widened
        const request = every(filter === 'mitchell' ? 1 : 2, filter);
        const [plain, quick] = [resampleRows(request), resampleRowsFast(request)];
        const most = Array.from(plain, (v, k) => Math.abs(v - quick[k]!)).reduce((a, b) => Math.max(a, b), 0);
        expect(most, `${bits} ${filter}`).toBeLessThanOrEqual(bits === 16 ? 4 : 1);
      }
    }
  });
});

/** A tile's width as the kernel draws it. */
const WIDTH = 512;

/** By how much a grid's positions are off at most, px; for a tile 64 px high. */
function mostOff(grid: WarpGrid, map: PositionMap, x0: number, y0: number, width: number): number {
  const { step, columns, nodes, straightStep } = grid;
  const p = new Float64Array(2);
  let most = 0;
  for (let j = 0; j < 64; j += 1) {
    for (let i = 0; i < width; i += 1) {
      const [ci, cj] = [Math.floor(i / step), Math.floor(j / step)];
      const [u, v] = [i / step - ci, j / step - cj];
      const a = (cj * columns + ci) * 2;
      const c = a + 2 * columns;
      map(x0 + i + 0.5, y0 + j + 0.5, p);
      const follows = straightStep < step ? bentAt(grid, i, j) : null;
      for (const k of [0, 1] as const) {
        const upper = nodes[a + k]! * (1 - u) + nodes[a + 2 + k]! * u;
        const lower = nodes[c + k]! * (1 - u) + nodes[c + 2 + k]! * u;
        most = Math.max(most, Math.abs((follows?.[k] ?? upper * (1 - v) + lower * v) - p[k]!));
      }
    }
  }
  return most;
}

describe('the warp grid', () => {
  it('is nowhere off by more than it allows, over random stances, lenses and easings', () => {
    const size = { width: 6000, height: 4000 };
    // GRIDS=10000 for the long run
    const numRuns = Number(process.env['GRIDS'] ?? 150);
    let [tiles, bent, seams] = [0, 0, 0];
    const edge = fc.record({
      id: fc.constant('ease1'),
      side: fc.constantFrom('left', 'right', 'top', 'bottom'),
      at: fc.tuple(fc.integer({ min: 500, max: 5500 }), fc.integer({ min: 500, max: 3500 })),
      amount: fc.double({ min: 0.05, max: 0.8, noNaN: true }),
      reach: fc.integer({ min: 80, max: 1500 }),
      room: fc.option(fc.record({ width: fc.integer({ min: 300, max: 2000 }), frame: fc.integer({ min: -2500, max: 2500 }) }), {
        nil: null,
      }),
    });
    const easing = fc.option(
      fc.record({ projection: fc.double({ min: 0, max: 1, noNaN: true }), edges: fc.array(edge, { maxLength: 2 }) }),
      {
        nil: undefined,
      },
    );
    fc.assert(
      fc.property(
        stance,
        fc.double({ min: -0.12, max: 0.05, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        easing,
        (adjust, k1, across, down, ease) => {
          const c = corrected(size.width, size.height, adjust, {
            ease,
            lens: { on: true, model: { kind: 'radial', cx: 3000, cy: 2000, k1, k2: 0.01 } },
          });
          let warp;
          try {
            warp = composeWarp(c, size);
          } catch {
            return;
          }
          const map = warp.outputToPicture;
          const [x0, y0] = [Math.floor(across * (warp.outputSize.width - WIDTH)), Math.floor(down * (warp.outputSize.height - 64))];
          for (const [limit, bends] of [
            [GRID_LIMIT_PX, false],
            [GRID_LIMIT_PX, true],
            [FINE_GRID_LIMIT_PX, true],
          ] as const) {
            // where an easing begins inside a cell its nodes see a third of what it bends
            const allowed = ease ? 0.02 : limit;
            const drawn = (left: number, width: number): boolean => {
              const grid = warpGrid(map, left, y0, width, 64, limit, undefined, bends);
              if (!grid) return false;
              if (grid.seam) {
                const { from, to } = grid.seam;
                seams += 1;
                return (from === 0 || drawn(left, from)) && drawn(left + from, to - from) && (to === width || drawn(left + to, width - to));
              }
              tiles += 1;
              if (grid.straightStep < grid.step) bent += 1;
              expect(mostOff(grid, map, left, y0, width)).toBeLessThan(allowed);
              return true;
            };
            if (!drawn(x0, WIDTH)) return;
          }
        },
      ),
      { numRuns, seed: 6 },
    );
    expect(tiles).toBeGreaterThan(numRuns);
    expect(bent).toBeGreaterThan(numRuns / 3);
    expect(seams).toBeGreaterThan(numRuns / 8);
  }, 600_000);
});
