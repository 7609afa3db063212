import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import type { Warp } from '@able-plumb/core';
import { PYTHON } from './peer';
import { inTurns, median, ratio, type Rows } from './timing';
import { placeOf, SIZE, typicalInTwoSteps } from './two-steps';

/** Of both files, so high that what resampling loses is seen. */
const QUALITY = 98;
const THREADS = 2;

/** Forty equal waves below 0.22 cycles a pixel: a picture that is known between its pixels too. */
const WAVES = Array.from({ length: 40 }, (_, k) => {
  const angle = k * 2.39996;
  const frequency = 0.22 * Math.sqrt((k + 0.5) / 40);
  return { fx: 2 * Math.PI * frequency * Math.cos(angle), fy: 2 * Math.PI * frequency * Math.sin(angle), phase: k * k * 0.7 };
});
const waveAt = (x: number, y: number): number =>
  127.5 + WAVES.reduce((sum, { fx, fy, phase }) => sum + Math.cos(fx * x + fy * y + phase), 0) * (120 / 20);

/**
 * From JPEG to JPEG as whole processes in turns, 24 megapixels, Lanczos 3: the command line against OpenCV's decode, undistort, warp and
 * encode, both on two threads; time, peak memory, and how near they come to the picture itself.
 *
 * @param plumb the bundled command line
 * @param peer whether OpenCV can be had
 */
export async function wholeProcessRows(rows: Rows, plumb: string, cache: string, peer: boolean): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'plumb-whole-'));
  try {
    const picture = await wavesPicture(cache);
    const { correction, warp, flatWarp, task: steps } = typicalInTwoSteps();
    const out = { ours: join(folder, 'ours.jpg'), theirs: join(folder, 'theirs.jpg') };
    const [asked, task] = [join(folder, 'typical.correction.json'), join(folder, 'task.json')];
    writeFileSync(asked, JSON.stringify(correction));
    writeFileSync(task, JSON.stringify({ picture, out: out.theirs, ...steps, quality: QUALITY }));
    const apply = [
      plumb,
      'apply',
      asked,
      picture,
      '--out',
      out.ours,
      '--force',
      '--quality',
      String(QUALITY),
      '--threads',
      String(THREADS),
    ];
    const script = fileURLToPath(new URL('./peer_whole.py', import.meta.url));
    const memory = { ours: 0, theirs: 0 };
    const stages: Record<string, number>[] = [];
    const times = await inTurns<'ours' | 'npm' | 'theirs'>(
      {
        ours: async () => {
          const { seconds, peakMB, said } = await runToEnd(process.execPath, apply);
          memory.ours = Math.max(memory.ours, peakMB);
          stages.push((JSON.parse(said) as { readonly ms: Record<string, number> }).ms);
          return seconds;
        },
        npm: async () => (await runToEnd('npm', ['run', '-s', 'plumb', '--', ...apply.slice(1)])).seconds,
        theirs: async () => {
          if (!peer) return NaN;
          const { seconds, peakMB } = await runToEnd(PYTHON, [script, task]);
          memory.theirs = Math.max(memory.theirs, peakMB);
          return seconds;
        },
      },
      9,
      1,
    );
    const { ours, npm, theirs } = times;
    const base = await runToEnd(process.execPath, [plumb, 'info', picture]);
    rows['JPEG to JPEG, 24 megapixels, Lanczos 3, two threads: command line, s'] = median(ours);
    for (const stage of ['read', 'export']) rows[`JPEG to JPEG: ${stage}, ms`] = median(stages.map((ms) => ms[stage] as number));
    rows['JPEG to JPEG: peak memory of the command line, MB'] = memory.ours;
    rows['JPEG to JPEG: of that, over the same program telling the size, MB'] = memory.ours - base.peakMB;
    rows['JPEG to JPEG: PSNR against the picture itself, dB'] = await psnr(out.ours, warp, flatWarp);
    if (peer) {
      rows['JPEG to JPEG: OpenCV, lens then perspective, s'] = median(theirs);
      rows['JPEG to JPEG: command line against OpenCV, ratio'] = ratio(ours, theirs);
      rows['JPEG to JPEG: through npm run -s plumb against OpenCV, ratio'] = ratio(npm, theirs);
      rows['JPEG to JPEG: OpenCV, peak memory, MB'] = memory.theirs;
      rows['JPEG to JPEG: OpenCV, PSNR against the picture itself, dB'] = await psnr(out.theirs, warp, flatWarp);
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** The picture of waves as a JPEG, made once. */
async function wavesPicture(cache: string): Promise<string> {
  const file = join(cache, 'waves-24.jpg');
  if (existsSync(file)) return file;
  mkdirSync(cache, { recursive: true });
  const { width, height } = SIZE;
  const sums = new Float32Array(width);
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y += 1) {
    sums.fill(0);
    for (const { fx, fy, phase } of WAVES) {
      // turned on from pixel to pixel
      const first = fx * 0.5 + fy * (y + 0.5) + phase;
      let [re, im] = [Math.cos(first), Math.sin(first)];
      const [cos, sin] = [Math.cos(fx), Math.sin(fx)];
      for (let x = 0; x < width; x += 1) {
        sums[x] = (sums[x] as number) + re;
        [re, im] = [re * cos - im * sin, re * sin + im * cos];
      }
    }
    for (let x = 0, k = y * width * 3; x < width; x += 1, k += 3)
      data.fill(Math.min(255, Math.max(0, Math.round(127.5 + (sums[x] as number) * (120 / 20)))), k, k + 3);
  }
  await sharp(data, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 100, chromaSubsampling: '4:4:4' })
    .toFile(file);
  return file;
}

/**
 * Peak signal to noise ratio of a straightened file against the waves themselves, every eleventh pixel; dB. Left out are borders, and what
 * the two-step way has lost before its second step, beyond the frame of its undistorted picture.
 */
async function psnr(file: string, { outputToPicture, outputSize: { width, height } }: Warp, flat: Warp): Promise<number> {
  const { data } = await sharp(readFileSync(file)).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  let [sum, count] = [0, 0];
  for (let y = 40; y < height - 40; y += 11) {
    for (let x = 40; x < width - 40; x += 11) {
      const [a, b] = placeOf(flat.outputToPicture, x, y);
      if (Math.min(a, b, SIZE.width - a, SIZE.height - b) < 16) continue;
      count += 1;
      const [u, v] = placeOf(outputToPicture, x + 0.5, y + 0.5);
      sum += ((data[(y * width + x) * 3] as number) - Math.min(255, Math.max(0, waveAt(u, v)))) ** 2;
    }
  }
  return 10 * Math.log10(255 ** 2 / (sum / count));
}

interface Ended {
  readonly seconds: number;
  readonly peakMB: number;
  readonly said: string;
}

/** Runs a command to its end; its greatest resident memory is read from /proc while it runs. */
function runToEnd(command: string, args: readonly string[]): Promise<Ended> {
  return new Promise((resolve, reject) => {
    const started = performance.now();
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'inherit'] });
    let [peakMB, said] = [0, ''];
    const look = (): void => {
      try {
        const peak = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'));
        if (peak) peakMB = Math.max(peakMB, Number(peak[1]) / 1024);
      } catch {
        // it has just ended, or this is not Linux
      }
    };
    const looking = setInterval(look, 20);
    child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
    child.on('close', (code) => {
      clearInterval(looking);
      const seconds = (performance.now() - started) / 1000;
      if (code === 0) resolve({ seconds, peakMB, said });
      else reject(new Error(`${command} ended with ${code}.`));
    });
  });
}
