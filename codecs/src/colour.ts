import type { Lattice, Raster } from '@able-plumb/core';
import { PictureFileError } from './bytes';
import { DISPLAY_P3, matrixProfile, SRGB } from './icc-profile';
import type { LcmsPackage } from './lcms';
import { wasmModule } from './wasm-source';

/** A colour space that pictures are shown or delivered in. */
export type ColourSpace = 'srgb' | 'display-p3';

/** The profile of a space, as it goes into files. */
export const profileOf = (space: ColourSpace): Uint8Array =>
  space === 'srgb' ? matrixProfile('sRGB', SRGB) : matrixProfile('Display P3', DISPLAY_P3);

type Engine = Awaited<ReturnType<typeof load>>;
let engine: Promise<Engine> | null = null;

/** The colour engine, Little CMS, loaded when the first colours are to be converted. */
async function load() {
  // @ts-expect-error it has no types of its own
  const [lcms, module] = await Promise.all([import('lcms-wasm') as Promise<LcmsPackage>, wasmModule('lcms')]);
  const core = await lcms.instantiate({
    instantiateWasm: (imports, received) => {
      void WebAssembly.instantiate(module, imports).then(received);
      return {};
    },
    // what it has to say of a broken profile is said in a sentence of ours
    print: () => undefined,
    printErr: () => undefined,
  });
  return { lcms, core };
}

/** Samples a call: as many as fit beside each other in the engine's memory. */
const BLOCK = 1 << 18;

/** Converts samples of 16 bits, `from` in one profile, to RGB of 16 bits in a space. */
interface Conversion {
  /** Channels a colour: 1 or 3. */
  readonly channels: 1 | 3;
  run(samples: Uint16Array): Uint16Array;
  end(): void;
}

/**
 * @param remedy what is safe, and what to do, where the profile cannot be read
 * @throws PictureFileError 'profile' for one that cannot be read or is of another kind than the pixels
 */
async function conversion(icc: Uint8Array, channels: 1 | 3, space: ColourSpace, remedy: string): Promise<Conversion> {
  engine ??= load();
  // where it could not be fetched it is tried again with the next picture
  engine.catch(() => (engine = null));
  const { lcms, core } = await engine;
  const broken = (): never => {
    throw new PictureFileError('profile', 'The colour profile of this picture cannot be read.', remedy);
  };
  const open = (bytes: Uint8Array): number => {
    const at = core._malloc(bytes.length);
    core.HEAPU8.set(bytes, at);
    // it keeps a copy of its own
    const profile = core.ccall('cmsOpenProfileFromMem', 'number', ['number', 'number'], [at, bytes.length]);
    core._free(at);
    return profile;
  };
  const source = open(icc);
  if (!source) return broken();
  const target = open(profileOf(space));
  try {
    if (core.cmsGetColorSpaceASCII(source) !== (channels === 1 ? 'GRAY' : 'RGB')) return broken();
    const flags = lcms.cmsFLAGS_BLACKPOINTCOMPENSATION | lcms.cmsFLAGS_NOCACHE;
    const format = channels === 1 ? lcms.TYPE_GRAY_16 : lcms.TYPE_RGB_16;
    const transform = core.cmsCreateTransform(source, format, target, lcms.TYPE_RGB_16, lcms.INTENT_RELATIVE_COLORIMETRIC, flags);
    if (!transform) return broken();
    const [from, to] = [core._malloc(BLOCK * channels * 2), core._malloc(BLOCK * 6)];
    return {
      channels,
      run(samples) {
        const count = samples.length / channels;
        const out = new Uint16Array(count * 3);
        for (let first = 0; first < count; first += BLOCK) {
          const n = Math.min(BLOCK, count - first);
          new Uint16Array(core.HEAPU8.buffer, from, n * channels).set(samples.subarray(first * channels, (first + n) * channels));
          core.ccall('cmsDoTransform', undefined, ['number', 'number', 'number', 'number'], [transform, from, to, n]);
          out.set(new Uint16Array(core.HEAPU8.buffer, to, n * 3), first * 3);
        }
        return out;
      },
      end() {
        core.cmsDeleteTransform(transform);
        core._free(from);
        core._free(to);
      },
    };
  } finally {
    core.cmsCloseProfile(source);
    core.cmsCloseProfile(target);
  }
}

const STEPS = 33;
/** A lattice that changes nothing by more than this is none: half a step of 8 bits. */
const UNSEEN = 128;

/**
 * How a picture's own colours look in a space, as a lattice of 33 steps; null where they may be shown as they are: without a profile, or
 * with one that is that space. Relative colorimetric with black point compensation.
 * @throws PictureFileError 'profile' for a profile that cannot be read; the colours are then best taken as sRGB
 */
export async function latticeOf(icc: Uint8Array | undefined, channels: number, space: ColourSpace): Promise<Lattice | null> {
  if (!icc) return space === 'srgb' || channels < 3 ? null : latticeOf(profileOf('srgb'), channels, space);
  const colour = await conversion(icc, channels < 3 ? 1 : 3, space, 'Its colours are taken as sRGB; the file is untouched.');
  try {
    if (channels < 3) {
      const samples = Uint16Array.from({ length: 4096 }, (_, k) => Math.round((k / 4095) * 65535));
      const data = colour.run(samples).filter((_, k) => k % 3 === 1);
      return isIdentity(data, samples) ? null : { kind: 'grey', data };
    }
    const at = (k: number): number => Math.round((k / (STEPS - 1)) * 65535);
    const samples = new Uint16Array(STEPS ** 3 * 3);
    for (let r = 0, k = 0; r < STEPS; r += 1)
      for (let g = 0; g < STEPS; g += 1) for (let b = 0; b < STEPS; b += 1, k += 3) samples.set([at(r), at(g), at(b)], k);
    const data = colour.run(samples);
    return isIdentity(data, samples) ? null : { kind: 'colour', steps: STEPS, data };
  } finally {
    colour.end();
  }
}

const isIdentity = (data: Uint16Array, samples: Uint16Array): boolean =>
  data.every((v, k) => Math.abs(v - (samples[k] as number)) <= UNSEEN);

const staysAsIs = (colours: 1 | 3, icc: Uint8Array | undefined, space: ColourSpace): boolean => !icc && (space === 'srgb' || colours === 1);

/** Channels of a raster after {@link convertColours}. */
export function convertedChannels(channels: Raster['channels'], icc: Uint8Array | undefined, space: ColourSpace): Raster['channels'] {
  if (staysAsIs(channels < 3 ? 1 : 3, icc, space)) return channels;
  return channels === 2 || channels === 4 ? 4 : 3;
}

/** The conversion that was used last: bands of one picture ask for it one after the other. */
let kept: {
  readonly icc: Uint8Array | undefined;
  readonly channels: 1 | 3;
  readonly space: ColourSpace;
  readonly conversion: Promise<Conversion>;
} | null = null;

function keptConversion(icc: Uint8Array | undefined, channels: 1 | 3, space: ColourSpace, remedy: string): Promise<Conversion> {
  if (kept && kept.icc === icc && kept.channels === channels && kept.space === space) return kept.conversion;
  kept?.conversion.then((old) => old.end()).catch(() => undefined);
  const made = conversion(icc ?? profileOf('srgb'), channels, space, remedy);
  kept = { icc, channels, space, conversion: made };
  // what could not be made is tried again
  made.catch(() => (kept = null));
  return made;
}

/**
 * A raster's colours in another space, at its own depth, 16 bits inside; alpha stays, grey becomes colour. Without a profile they are taken as
 * sRGB.
 * @throws PictureFileError 'profile' for a profile that cannot be read
 */
export async function convertColours(raster: Raster, icc: Uint8Array | undefined, space: ColourSpace): Promise<Raster> {
  const { width, height, channels, data } = raster;
  const colours = channels < 3 ? 1 : 3;
  if (staysAsIs(colours, icc, space)) return raster;
  const alpha = channels === 2 || channels === 4;
  const outChannels = convertedChannels(channels, icc, space);
  const wide = data instanceof Uint16Array;
  const out = wide ? new Uint16Array(width * height * outChannels) : new Uint8Array(width * height * outChannels);
  const remedy = 'Export it with the colours as the original has them; nothing was written.';
  const colour = await keptConversion(icc, colours, space, remedy);
  const scale = wide ? 1 : 257;
  const count = width * height;
  for (let first = 0; first < count; first += BLOCK) {
    const n = Math.min(BLOCK, count - first);
    const samples = new Uint16Array(n * colours);
    for (let k = 0; k < n; k += 1)
      for (let c = 0; c < colours; c += 1) samples[k * colours + c] = (data[(first + k) * channels + c] as number) * scale;
    const done = colour.run(samples);
    for (let k = 0; k < n; k += 1) {
      const to = (first + k) * outChannels;
      for (let c = 0; c < 3; c += 1) out[to + c] = wide ? (done[k * 3 + c] as number) : ((done[k * 3 + c] as number) + 128) / 257;
      if (alpha) out[to + 3] = data[(first + k) * channels + channels - 1] as number;
    }
  }
  return { width, height, channels: outChannels, data: out };
}
