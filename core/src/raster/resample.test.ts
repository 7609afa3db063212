import { describe, expect, it } from 'vitest';
import {
  blankRaster,
  composeWarp,
  FILTERS,
  newCorrection,
  parseCorrection,
  prepareSource,
  renderRows,
  resampleRows,
  resampleRowsFast,
  resultChannels,
  withRollAdjust,
  type Correction,
  type FilterName,
  type PositionMap,
  type Raster,
} from '../index';

const W = 360;
const H = 280;

/** Forty-eight equal waves below 0.22 cycles a pixel: a picture that is known between its pixels too. */
const waves = Array.from({ length: 48 }, (_, k) => {
  const angle = k * 2.399963;
  const frequency = 0.22 * Math.sqrt((k + 0.5) / 48);
  return { fx: frequency * Math.cos(angle), fy: frequency * Math.sin(angle), phase: k * 1.7 };
});
const scene = (x: number, y: number): number =>
  0.5 + waves.reduce((sum, { fx, fy, phase }) => sum + Math.cos(2 * Math.PI * (fx * x + fy * y) + phase), 0) / (2 * 20);

function sampled(bits: 8 | 16): Raster {
  const raster = blankRaster(W, H, 1, bits);
  const top = bits === 8 ? 255 : 65535;
  for (let j = 0; j < H; j += 1)
    for (let i = 0; i < W; i += 1) raster.data[j * W + i] = Math.round(Math.min(1, Math.max(0, scene(i + 0.5, j + 0.5))) * top);
  return raster;
}

const whole = (correction: Correction, source: Raster): Raster => {
  const warp = composeWarp(correction, correction.picture);
  const channels = resultChannels(source, correction, true);
  return {
    ...warp.outputSize,
    channels,
    data: renderRows(prepareSource(source, warp), warp, correction, channels, 0, warp.outputSize.height),
  };
};

/** Peak signal to noise ratio of a turned picture against the waves themselves, unrounded, borders left out; dB. */
function psnr(result: Raster, correction: Correction, margin = 8): number {
  const warp = composeWarp(correction, correction.picture);
  const top = result.data instanceof Uint16Array ? 65535 : 255;
  let [sum, count] = [0, 0];
  for (let j = margin; j < result.height - margin; j += 1) {
    for (let i = margin; i < result.width - margin; i += 1) {
      const [x, y] = warp.toPicture(i + 0.5, j + 0.5)!;
      sum += ((result.data[j * result.width + i] as number) / top - Math.min(1, Math.max(0, scene(x, y)))) ** 2;
      count += 1;
    }
  }
  return -10 * Math.log10(sum / count);
}

const turned = (deg: number, filter: FilterName): Correction => {
  const correction = withRollAdjust(newCorrection({ name: 'waves', width: W, height: H, focal35: 28 }), deg);
  return { ...correction, output: { ...correction.output, filter } };
};

describe('resampling', () => {
  it('gives back every pixel when nothing is changed, 8 and 16 bit, with every filter', () => {
    for (const bits of [8, 16] as const) {
      for (const filter of Object.keys(FILTERS) as FilterName[]) {
        const source = sampled(bits);
        expect(whole(turned(0, filter), source).data).toEqual(source.data);
      }
    }
  });

  it('of a crop alone, with quarter turns and flips, takes its own pixels over', () => {
    const source = sampled(8);
    const base = newCorrection({ name: 'x', width: W, height: H, focal35: 28 });
    for (const quarterTurns of [0, 1, 2, 3] as const) {
      for (const flipX of [false, true]) {
        const correction: Correction = {
          ...base,
          stance: { ...base.stance, quarterTurns, flipX },
          crop: { ...base.crop, rect: { x: -100.3, y: -70.8, width: 180.5, height: 133.2 } },
        };
        const warp = composeWarp(correction, correction.picture);
        const result = whole(correction, source);
        expect(warp.pixelExact).toBe(true);
        for (let k = 0; k < result.data.length; k += 1) {
          const [x, y] = warp.toPicture((k % result.width) + 0.5, Math.floor(k / result.width) + 0.5)!;
          expect(result.data[k]).toBe(source.data[Math.floor(y) * W + Math.floor(x)]);
        }
      }
    }
  });

  it('reaches 52 dB at 8 bits with Lanczos 3 at 1.17 degrees; bilinear, bicubic, Lanczos in that order at 16 bits', () => {
    expect(psnr(whole(turned(1.17, 'lanczos3'), sampled(8)), turned(1.17, 'lanczos3'))).toBeGreaterThan(52);
    const [bilinear, bicubic, lanczos] = (['bilinear', 'bicubic', 'lanczos3'] as const).map((filter) =>
      psnr(whole(turned(1.17, filter), sampled(16)), turned(1.17, filter)),
    ) as [number, number, number];
    expect(bicubic).toBeGreaterThan(bilinear + 3);
    expect(lanczos).toBeGreaterThan(bicubic + 3);
  });

  it('once beats twice by 3 dB or more', () => {
    const once = turned(2.34, 'bicubic');
    const first = whole({ ...turned(1.17, 'bicubic'), crop: { ...once.crop, edges: 'keep', around: 'frame' } }, sampled(16));
    const grey: Raster = {
      width: first.width,
      height: first.height,
      channels: 1,
      data: new Uint16Array(first.data.length / first.channels).map((_, k) => first.data[k * first.channels] as number),
    };
    expect([grey.width, grey.height]).toEqual([W, H]);
    const twice = whole(turned(1.17, 'bicubic'), grey);
    const margin = 20;
    // both against the waves, turned by the sum
    const error = (result: Raster, at: (i: number, j: number) => readonly [number, number]): number => {
      let [sum, count] = [0, 0];
      for (let j = margin; j < result.height - margin; j += 1)
        for (let i = margin; i < result.width - margin; i += 1) {
          const [x, y] = at(i, j);
          sum += ((result.data[j * result.width + i] as number) / 65535 - Math.min(1, Math.max(0, scene(x, y)))) ** 2;
          count += 1;
        }
      return -10 * Math.log10(sum / count);
    };
    const single = composeWarp(once, once.picture);
    const half = composeWarp(turned(1.17, 'bicubic'), once.picture);
    const back = composeWarp({ ...turned(1.17, 'bicubic'), crop: { ...once.crop, edges: 'keep', around: 'frame' } }, once.picture);
    const onceDb = error(whole(once, sampled(16)), (i, j) => single.toPicture(i + 0.5, j + 0.5)!);
    const twiceDb = error(twice, (i, j) => back.toPicture(...half.toPicture(i + 0.5, j + 0.5)!)!);
    expect(onceDb).toBeGreaterThan(twiceDb + 3);
  });

  it('keeps a constant, and colour under alpha, exactly; empty pixels are empty', () => {
    const source = blankRaster(60, 40, 4, 8);
    for (let k = 0; k < 60 * 40; k += 1) source.data.set([200, 40, 90, k % 60 < 30 ? 255 : 0], 4 * k);
    const map: PositionMap = (x, y, out) => {
      out[0] = x * 0.93 - 2 + y * 0.1;
      out[1] = y * 0.97 - 1.3;
      return true;
    };
    for (const filter of Object.keys(FILTERS) as FilterName[]) {
      const out = resampleRows({ source, map, filter, width: 64, fromRow: 0, toRow: 40, background: 'transparent', outChannels: 4 });
      for (let k = 0; k < out.length; k += 4)
        if ((out[k + 3] as number) > 0) expect([out[k], out[k + 1], out[k + 2]]).toEqual([200, 40, 90]);
      expect(out[3]).toBe(0);
    }
    const flat = { width: 50, height: 50, channels: 3 as const, data: new Uint8Array(7500).fill(117) };
    expect(
      new Set(
        resampleRows({
          source: flat,
          map: (x, y, out) => ((out[0] = x * 0.71 + 3.3), (out[1] = y * 0.66 + 4.1), true),
          filter: 'lanczos3',
          width: 60,
          fromRow: 0,
          toRow: 60,
          background: [0, 0, 0],
          outChannels: 3,
        }),
      ),
    ).toEqual(new Set([117]));
  });

  it('shrunk by two, a zone plate keeps less than 0.1 of what the smaller picture cannot hold', () => {
    const n = 512;
    const plate: Raster = { width: n, height: n, channels: 1, data: new Uint8Array(n * n) };
    // radial frequency grows to 0.5 cycles a pixel at the edge
    for (let j = 0; j < n; j += 1)
      for (let i = 0; i < n; i += 1)
        plate.data[j * n + i] = Math.round(127.5 + 127.5 * Math.cos((Math.PI * ((i - n / 2) ** 2 + (j - n / 2) ** 2)) / n));
    const half = resampleRows({
      source: plate,
      map: (x, y, out) => ((out[0] = 2 * x), (out[1] = 2 * y), true),
      filter: 'lanczos3',
      width: n / 2,
      fromRow: 0,
      toRow: n / 2,
      background: [0],
      outChannels: 1,
    });
    let [sum, count] = [0, 0];
    for (let j = 0; j < n / 2; j += 1)
      for (let i = 0; i < n / 2; i += 1) {
        const r = Math.hypot(2 * i - n / 2, 2 * j - n / 2) / n;
        // beyond 0.36 cycles of the large picture, well above the small one's limit of 0.25
        if (r < 0.36 || r > 0.49) continue;
        sum += (((half[j * (n / 2) + i] as number) - 127.5) / 127.5) ** 2;
        count += 1;
      }
    expect(Math.sqrt(sum / count)).toBeLessThan(0.1);
  });

  it('in linear light, black and white stripes shrunk to nothing but grey are half the light (188 of 255 by IEC 61966-2-1), as stored 128', () => {
    const samples = (bits: 8 | 16, length: number, at: (k: number) => number): Uint8Array | Uint16Array =>
      bits === 16 ? Uint16Array.from({ length }, (_, k) => at(k)) : Uint8Array.from({ length }, (_, k) => at(k));
    const stripes = (bits: 8 | 16, width: number): Raster => ({
      width,
      height: width,
      channels: 3,
      data: samples(bits, width * width * 3, (k) => (Math.floor(k / 3) % 2 === 0 ? 0 : bits === 16 ? 65535 : 255)),
    });
    const opened = newCorrection({ name: 'stripes', width: 512, height: 512, focal35: 28 });
    for (const [light, bits, grey] of [
      ['linear', 8, 188],
      ['linear', 16, 48_193],
      ['encoded', 8, 128],
    ] as const)
      // by a widened filter, and by halving first
      for (const px of [128, 24]) {
        const c = parseCorrection({ ...opened, output: { size: { kind: 'long-edge', px }, light } });
        const warp = composeWarp(c, c.picture);
        const source = stripes(bits, 512);
        const out = renderRows(prepareSource(source, warp, light), warp, c, 3, 0, px);
        const middle = out.slice((px / 2) * px * 3 + 30, (px / 2) * px * 3 + 36);
        for (const v of middle) expect(Math.abs(v - grey), `${light} ${bits} ${px}`).toBeLessThanOrEqual(bits === 16 ? 300 : 1.5);
      }
    // what is stored comes back as it was
    for (const bits of [8, 16] as const) {
      const values = bits === 16 ? 65536 : 256;
      const ramp: Raster = {
        width: values,
        height: 1,
        channels: 1,
        data: samples(bits, values, (v) => v),
      };
      const request = {
        source: ramp,
        map: (x: number, y: number, out: Float64Array) => ((out[0] = x), (out[1] = y), true),
        filter: 'lanczos3' as const,
        light: 'linear' as const,
        width: values,
        fromRow: 0,
        toRow: 1,
        background: [0],
        outChannels: 1 as const,
      };
      for (const resample of [resampleRows, resampleRowsFast]) expect(resample(request)).toEqual(ramp.data);
    }
  });
});
