import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SCENES, SHEET, type Scene } from './scenes';

/** The field that is traced for a picture with a lens is larger by this factor, so that the bent frame finds pixels everywhere. */
export const LENS_MARGIN = 1.12;

/** Focal length in pixels from the 35 mm equivalent by the diagonal (CIPA DC-008, FocalLengthIn35mmFilm). */
export const focalPxOf = (scene: Scene): number => (scene.focal35 / Math.hypot(36, 24)) * Math.hypot(scene.widthPx, scene.heightPx);

/** Size that is traced: the picture's own, or larger by {@link LENS_MARGIN} when a lens bends it afterwards; even numbers, px. */
export function tracedSize(scene: Scene): { width: number; height: number } {
  const factor = scene.lens ? LENS_MARGIN : 1;
  return { width: Math.round((scene.widthPx * factor) / 2) * 2, height: Math.round((scene.heightPx * factor) / 2) * 2 };
}

function sceneSource(scene: Scene): string {
  const size = tracedSize(scene);
  const angleDeg = (2 * Math.atan(size.width / 2 / focalPxOf(scene)) * 180) / Math.PI;
  const [x, y, z] = scene.position;
  return `#version 3.7;
#include "common.inc"
camera { perspective location 0 right x*${size.width / size.height} up y angle ${angleDeg} direction z
  rotate z*${-scene.rollDeg} rotate x*${-scene.tiltDeg} rotate y*${scene.swingDeg} translate <${x},${y},${z}> }
#include "${scene.include}"
`;
}

function sheetSource(buildDir: string): string {
  const widthMm = (SHEET.widthPx / SHEET.ppi) * 25.4;
  const heightMm = (SHEET.heightPx / SHEET.ppi) * 25.4;
  const prints = SHEET.prints
    .map((print, index) => {
      const [cx, cy] = print.centreMm;
      const [w, h] = [print.widthMm, print.heightMm];
      const tone = index % 2 === 0 ? '<.92,.80,.62>' : '<.86,.84,.80>';
      return `union {
  box { <${-w / 2},${-h / 2},-.35> <${w / 2},${h / 2},0> texture { pigment { bozo turbulence .7 scale 30 color_map { [0 rgb <.80,.77,.69>] [1 rgb <.86,.83,.76>] } } finish { diffuse .9 } } }
  box { <0,0,0> <1,1,.02> texture { pigment { average pigment_map {
      [1 image_map { png "${join(buildDir, print.picture)}.png" gamma srgb once interpolate 2 }]
      [1.4 gradient x color_map { [0 rgb ${tone}*.42] [1 rgb ${tone}*.42] }] } } finish { diffuse .95 } }
    texture { pigment { bozo turbulence 1 octaves 6 scale <.2,.3,1> color_map { [0 rgbt <.8,.7,.5,.55>] [.3 rgbt 1] [1 rgbt 1] } } finish { diffuse .9 } }
    scale <${w - 8},${h - 8},1> translate <${-(w - 8) / 2},${-(h - 8) / 2},-.38> }
  rotate z*${print.angleDeg} translate <${cx},${-cy},0> }`;
    })
    .join('\n');
  return `#version 3.7;
global_settings { assumed_gamma 1.0 ambient_light rgb 0 }
camera { orthographic location <${widthMm / 2},${-heightMm / 2},-100> right x*${widthMm} up y*${heightMm} direction z }
light_source { <60,160,-300> rgb <.95,.95,.94> area_light <60,0,0>, <0,60,0>, 4, 4 adaptive 1 jitter }
light_source { <180,-360,-300> rgb .12 shadowless }
plane { -z, 0 texture { pigment { granite scale 90 color_map { [0 rgb <.035,.036,.038>] [1 rgb <.05,.05,.052>] } } finish { diffuse .9 } } }
${prints}
`;
}

/**
 * Traces the pictures into `buildDir` as 16-bit PNG, straight from the camera and without any lens.
 * @param names which pictures; all when empty
 * @throws when the ray tracer is missing or fails
 */
export function trace(buildDir: string, scenesDir: string, names: readonly string[]): void {
  mkdirSync(buildDir, { recursive: true });
  const jobs = [
    ...SCENES.map((scene) => ({ name: scene.name, source: sceneSource(scene), ...tracedSize(scene) })),
    { name: SHEET.name, source: sheetSource(buildDir), width: SHEET.widthPx, height: SHEET.heightPx },
  ];
  for (const job of jobs) {
    if (names.length > 0 && !names.includes(job.name)) continue;
    const file = join(buildDir, `${job.name}.pov`);
    writeFileSync(file, job.source);
    execFileSync(
      'povray',
      [
        `+I${file}`,
        `+O${join(buildDir, job.name)}.png`,
        `+W${job.width}`,
        `+H${job.height}`,
        '+FN16',
        '+A0.25',
        '+R2',
        '-D',
        `+L${scenesDir}`,
        '-V',
        '-GA',
      ],
      { stdio: ['ignore', 'ignore', 'pipe'] },
    );
  }
}
