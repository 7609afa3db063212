import type { Correction, EdgeEase, OutputSize, Panel, Reference, Shim } from '../correction/schema';
import { turnedGuides } from './guides';
import { type Mat3, multiply3, transpose3 } from '../linear/mat3';
import { normaliseQuarterTurns } from '../picture/quarter-turns';
import { turnedAbout, turnedRect } from '../picture/turned-rect';
import { type Attitude, attitudeFromRotation, rotationFromAttitude } from '../stance/attitude';
import { aimAttitude, usedAttitude } from '../stance/stance-homography';
import { facingOf } from '../stance/world-direction';

/** Clockwise quarter turns of what is seen, about the plane's origin: x' = -y, y' = x for one. */
const ROTATION: Readonly<Record<1 | 2 | 3, Mat3>> = {
  1: [0, -1, 0, 1, 0, 0, 0, 0, 1],
  2: [-1, 0, 0, 0, -1, 0, 0, 0, 1],
  3: [0, 1, 0, -1, 0, 0, 0, 0, 1],
};

/**
 * The document after clockwise quarter turns: its result is the turned result, exactly, whatever is set; four turns give back the document.
 * Nothing is solved anew. Lines and panels keep pointing at the same picture points; what was plumb is level then, and the reverse.
 *
 * With Z the turn, every part X of the chain becomes Z X Z^-1: stance, aim, stretch and pull, and what lies on the plane.
 */
export function withQuarterTurn(correction: Correction, by: number): Correction {
  const turns = normaliseQuarterTurns(by);
  if (turns === 0) return correction;
  const odd = turns % 2 === 1;
  const { crop, ease, output } = correction;
  return {
    ...correction,
    references: correction.references.map((r) => (odd ? { ...r, kind: SWAPPED[r.kind] } : r)),
    panels: correction.panels.map((p) => ({
      ...p,
      size: odd ? turnedPanelSize(p.size) : p.size,
      margins: turnedMargins(p.margins, turns),
    })),
    guides: turnedGuides(correction.guides, turns),
    stance: turnedStance(correction, turns),
    ease: {
      ...ease,
      along: odd && ease.projection > 0 ? SWAPPED_AXIS[ease.along] : ease.along,
      edges: ease.edges.map((e) => turnedEdge(e, turns)),
      shims: ease.shims.map((s) => turnedShim(s, turns)),
    },
    crop: {
      ...crop,
      ...(typeof crop.ratio === 'number' && odd ? { ratio: 1 / crop.ratio } : {}),
      ...(crop.rect ? { rect: turnedRect(crop.rect, turns) } : {}),
      fill: { ...crop.fill, leave: crop.fill.leave.map((p): [number, number] => [...turnedAbout(p, turns)]) },
    },
    deliveries: correction.deliveries.map((d) => (d.rect ? { ...d, rect: turnedRect(d.rect, turns) } : d)),
    output: { ...output, size: odd ? turnedOutputSize(output.size) : output.size },
  };
}

const SWAPPED: Readonly<Record<Reference['kind'], Reference['kind']>> = { plumb: 'level', level: 'plumb', return: 'return', eye: 'eye' };
const SWAPPED_AXIS = { plumb: 'level', level: 'plumb' } as const;

function turnedPanelSize(size: Panel['size']): Panel['size'] {
  if (size && 'ratio' in size) return { ratio: 1 / size.ratio };
  return size && 'width' in size ? { ...size, width: size.height, height: size.width } : size;
}

const SIDES = ['top', 'right', 'bottom', 'left'] as const;

const turnedMargins = (margins: Panel['margins'], turns: number): Panel['margins'] =>
  Object.fromEntries(SIDES.map((side, i) => [SIDES[(i + turns) % 4], margins[side]])) as unknown as Panel['margins'];

const turnedOutputSize = (size: OutputSize): OutputSize =>
  size.kind === 'exact' || size.kind === 'print' ? { ...size, width: size.height, height: size.width } : size;

/** Angles of a document are kept to this many decimals of a degree: turning back and forth leaves them what they were. */
const rounded = (deg: number): number => Math.round(deg * 1e12) / 1e12 + 0;

/**
 * The stance seen from the turned picture. With F the front: R' = F^-1 Z F R Z^-1 and, for the aim, Z R_aim Z^-1. What was solved is turned
 * as it is; what the hand adds, and the aim, are what makes the whole exact.
 */
function turnedStance(correction: Correction, turns: 1 | 2 | 3): Correction['stance'] {
  const { stance, camera } = correction;
  const odd = turns % 2 === 1;
  const z = ROTATION[turns];
  const back = transpose3(z);
  const facing = facingOf(correction);
  const turned = (a: Attitude): Attitude => attitudeFromRotation(multiply3(transpose3(facing), z, facing, rotationFromAttitude(a), back));
  const aimed = (a: Attitude): Attitude => attitudeFromRotation(multiply3(z, rotationFromAttitude(a), back));
  const strength = odd ? { tilt: stance.strength.swing, swing: stance.strength.tilt } : stance.strength;
  const x = stance.pull.shift;
  const next: Correction['stance'] = {
    ...stance,
    quarterTurns: normaliseQuarterTurns(stance.quarterTurns + turns),
    strength,
    pull: { ...stance.pull, shift: [z[0] * x[0] + z[1] * x[1] + 0, z[3] * x[0] + z[4] * x[1] + 0] },
    ...(odd
      ? {
          flipX: stance.flipY,
          flipY: stance.flipX,
          aspect: 1 / stance.aspect,
          // a panel that is solved anew slants what it slanted before
          slanted: stance.shear !== 0 || stance.from === 'panel' ? SWAPPED_AXIS[stance.slanted] : stance.slanted,
          middle: stance.keepMiddle ? SWAPPED_AXIS[stance.middle] : stance.middle,
        }
      : {}),
  };
  // a flat picture only rolls, and turning leaves a roll as it is
  if (camera.flat) return next;
  const used = usedAttitude(correction);
  const all = turned(used);
  const solved = stance.from === 'hand' && stance.roll === 0 && stance.tilt === 0 && stance.swing === 0 ? stance : turned(stance);
  const written = { roll: rounded(solved.roll), tilt: rounded(solved.tilt), swing: rounded(solved.swing) };
  const adjust = {
    roll: rounded(wrapped(all.roll - written.roll)),
    tilt: rounded(all.tilt - written.tilt),
    swing: rounded(wrapped(all.swing - written.swing)),
  };
  const whole = { roll: written.roll + adjust.roll, tilt: written.tilt + adjust.tilt, swing: written.swing + adjust.swing };
  const aim = aimed(aimAttitude(correction, used));
  return {
    ...next,
    ...written,
    adjust,
    aim: {
      roll: rounded(aim.roll),
      tilt: rounded(aim.tilt - (1 - strength.tilt) * whole.tilt),
      swing: rounded(aim.swing - (1 - strength.swing) * whole.swing),
    },
  };
}

/** An angle in -180..180 degrees. */
const wrapped = (deg: number): number => deg - 360 * Math.round(deg / 360);

/** An edge easing turned clockwise with what is seen; what was across is then up and down. */
function turnedEdge(edge: EdgeEase, turns: number): EdgeEase {
  const from = SIDES.indexOf(edge.side);
  const side = SIDES[(from + turns) % 4] as EdgeEase['side'];
  // a coordinate keeps its sign unless it turns from down to across, or by half
  const signs = [...Array<unknown>(turns)].reduce<number>((sign, _, i) => ((from + i) % 2 === 0 ? -sign : sign), 1);
  return { ...edge, side, room: edge.room && { ...edge.room, frame: signs * edge.room.frame } };
}

/** A shim turned clockwise with what is seen: what it holds turns about its middle, what became level becomes plumb. */
function turnedShim(shim: Shim, turns: number): Shim {
  const odd = turns % 2 === 1;
  const turned = (p: readonly [number, number]): [number, number] => {
    const [x, y] = turnedAbout(p, turns);
    return [x, y];
  };
  return {
    ...shim,
    ...(odd ? { width: shim.height, height: shim.width } : {}),
    holds: shim.holds.map((h) => ({ ...h, from: turned(h.from), to: turned(h.to) })),
    lines: shim.lines.map((l) => (odd && l.kind !== 'straight' ? { ...l, kind: SWAPPED_AXIS[l.kind] } : l)),
  };
}
