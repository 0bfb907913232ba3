import { makeSignature, type FrameSignature } from "../core/grouping/signature";
import type { FrameInfo } from "../core/frame/frame";
import type { StackKind } from "../core/grouping/foundStack";
import { encode, SPACES } from "../core/colour/spaces";
import { normal, random } from "../core/math/random";
import { simulatedRoom } from "./room";
import type { RadianceImage } from "./camera";
import { clamp } from "../core/math/clamp";

export interface ShootFrame {
  info: FrameInfo;
  signature: FrameSignature;
  /** RGB bytes in sRGB, a thirtieth of the size that the info tells */
  samples: Uint8Array;
}
export interface TrueStack {
  kind: StackKind;
  frames: number[];
  /** brackets of a bracketed panorama */
  members?: number[][];
}
export interface MixedShoot {
  frames: ShootFrame[];
  truth: TrueStack[];
  /** covered frames, in no stack */
  borders: number[];
}

const W = 192;
const H = 128;
const LUT = Float32Array.from({ length: 768 }, (_, i) => SPACES_DECODE(i % 256));
function SPACES_DECODE(code: number): number {
  const v = code / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
}

interface View {
  yaw: number;
  pitch: number;
  roll: number;
  hfov: number;
  ev: number;
  /** for focus runs: distance in focus, 0..1 */
  focus?: number;
  growth?: number;
}
interface World {
  sharp: RadianceImage;
  soft: RadianceImage[];
}

/**
 * A day of mixed work for grouping: brackets (some with a frame lost), panoramas of one and several
 * rows, bracketed panoramas, focus runs, singles, covered frames as borders, jittered pauses, an
 * hour's jump of the clock, and file numbers that run over 9999. Small pictures are really taken of
 * made-up worlds, so that pixels can be compared.
 *
 * @param count  about how many frames
 */
export function mixedShoot(count: number, seed: number): MixedShoot {
  const rnd = random(seed);
  const frames: ShootFrame[] = [];
  const truth: TrueStack[] = [];
  const borders: number[] = [];
  const pick = <T>(list: readonly T[]): T => list[Math.floor(rnd() * list.length)]!;
  let clock = 8 * 3600;
  let number = 9900;
  let jumped = false;
  const worldOf = (soft: boolean): World => {
    const sharp = simulatedRoom(640, 320, Math.floor(rnd() * 1e9));
    return { sharp, soft: soft ? [2, 4, 8].map((r) => blurred(sharp, r)) : [] };
  };
  const pause = (usual: number): number => usual * (0.6 + rnd() * 0.9);
  const take = (
    world: World | undefined,
    v: View,
    exif: FrameInfo["exif"],
    portrait: boolean,
  ): number => {
    const i = frames.length;
    const w = portrait ? H : W;
    const h = portrait ? W : H;
    const samples = world ? shoot(world, v, w, h, seed * 1000 + i) : covered(seed + i);
    const signature = makeSignature({ samples, lut: LUT, width: w, height: h });
    const name = `QM_${String(((number++ - 1) % 9999) + 1).padStart(4, "0")}.jpg`;
    frames.push({
      info: {
        name,
        format: "jpeg",
        width: w * 30,
        height: h * 30,
        depth: 8,
        profile: "sRGB",
        exif: {
          takenAt: Math.round(clock * 100) / 100,
          aperture: 8,
          iso: 100,
          camera: "Stand-in 24",
          ...exif,
        },
      },
      signature,
      samples,
    });
    return i;
  };
  while (frames.length < count) {
    // between stacks from two seconds (the next room's set was ready) to minutes
    clock += pick([2, 5, 20, 60, 200]) * (0.7 + rnd() * 0.6);
    if (!jumped && frames.length > count / 2) {
      clock += pick([-3600, 3600]);
      jumped = true;
    }
    const kind = pick([
      "bracket",
      "bracket",
      "bracket",
      "panorama",
      "rows",
      "bracketed",
      "focus",
      "single",
      "border",
      "again",
    ] as const);
    const focal = pick([16, 20, 24, 35]);
    const hfov = (2 * Math.atan(18 / focal) * 180) / Math.PI;
    const base = pick([-1, 0, 1]);
    const time = 1 / pick([8, 30, 60, 125]);
    const yaw0 = rnd() * 360;
    const pitch0 = (rnd() - 0.5) * 20;
    const hand = pick([0, 0, 0.6]);
    const shake = (): number => (rnd() * 2 - 1) * hand;
    const exposed = (ev: number): FrameInfo["exif"] => ({
      exposureTime: time * 2 ** ev,
      focalLength: focal,
    });
    const bracketOf = (
      world: World,
      evs: number[],
      yaw: number,
      pitch: number,
      portrait: boolean,
      gap: number,
    ): number[] =>
      evs.map((ev) => {
        clock += pause(gap) + time * 2 ** ev;
        return take(
          world,
          { yaw: yaw + shake(), pitch: pitch + shake(), roll: shake(), hfov, ev: base + ev },
          exposed(ev),
          portrait,
        );
      });
    if (kind === "bracket" || kind === "again") {
      const world = worldOf(false);
      const portrait = rnd() < 0.2;
      const evs = pick([
        [-2, 0, 2],
        [0, -2, 2],
        [-4, -2, 0, 2, 4],
        [0, -2, 2, -4, 4],
        [-3, -2, -1, 0, 1, 2, 3],
        [-4, -3, -2, -1, 0, 1, 2, 3, 4],
        [-3, 0, 3],
      ]);
      for (let k = kind === "again" ? 2 : 1; k > 0; k--) {
        const own = [...evs];
        if (own.length > 3 && rnd() < 0.2) own.splice(1 + Math.floor(rnd() * (own.length - 2)), 1);
        const waits = rnd() < 0.1 ? own.length >> 1 : -1;
        truth.push({
          kind: "bracket",
          frames: own.flatMap((ev, i) => {
            if (i === waits) clock += 45;
            return bracketOf(world, [ev], yaw0, pitch0, portrait, 0.4);
          }),
        });
        clock += 2.5;
      }
    } else if (kind === "panorama" || kind === "rows" || kind === "bracketed") {
      const world = worldOf(false);
      const portrait = rnd() < 0.6;
      const across = portrait
        ? (2 * (Math.atan(Math.tan((hfov * Math.PI) / 360) * (H / W)) * 180)) / Math.PI
        : hfov;
      const overlap = 0.3 + rnd() * 0.2;
      const n = kind === "bracketed" ? 3 + Math.floor(rnd() * 3) : 4 + Math.floor(rnd() * 6);
      const rows = kind === "rows" ? 2 : 1;
      const tall = portrait
        ? hfov
        : (2 * (Math.atan(Math.tan((hfov * Math.PI) / 360) * (H / W)) * 180)) / Math.PI;
      const stack: TrueStack = { kind: "panorama", frames: [] };
      const evs =
        kind === "bracketed"
          ? pick([
              [-2, 0, 2],
              [0, -3, 3],
            ])
          : [0];
      const direction = rnd() < 0.5 ? 1 : -1;
      for (let r = 0; r < rows; r++)
        for (let i = 0; i < n; i++) {
          const at = r % 2 ? n - 1 - i : i;
          clock += pause(2);
          const own = bracketOf(
            world,
            evs,
            yaw0 + direction * at * across * (1 - overlap),
            pitch0 / 2 + (rows > 1 ? (r - 0.5) * tall * 0.6 : 0),
            portrait,
            0.3,
          );
          stack.frames.push(...own);
          if (kind === "bracketed") (stack.members ??= []).push(own);
        }
      truth.push(stack);
    } else if (kind === "focus") {
      const world = worldOf(true);
      const n = pick([8, 12, 20, 30]);
      const lens = { exposureTime: time, focalLength: 90, aperture: 5.6 };
      truth.push({
        kind: "focus",
        frames: Array.from({ length: n }, (_, i) => {
          clock += pause(0.3);
          return take(
            world,
            {
              yaw: yaw0 + shake() * 0.1,
              pitch: shake() * 0.1,
              roll: shake() * 0.2,
              hfov: 24,
              ev: base,
              focus: i / (n - 1),
              growth: 1 + (0.03 * i) / n,
            },
            lens,
            false,
          );
        }),
      });
    } else if (kind === "single")
      truth.push({
        kind: "single",
        frames: [
          take(
            worldOf(false),
            { yaw: yaw0, pitch: pitch0, roll: shake(), hfov, ev: base },
            exposed(0),
            rnd() < 0.3,
          ),
        ],
      });
    else
      borders.push(take(undefined, { yaw: 0, pitch: 0, roll: 0, hfov, ev: 0 }, exposed(0), false));
  }
  return { frames, truth, borders };
}

/** A view into a world wrapped round the camera. */
function shoot(world: World, v: View, w: number, h: number, seed: number): Uint8Array {
  const rad = Math.PI / 180;
  const gauss = normal(random(seed));
  const f = (Math.max(w, h) / 2 / Math.tan((v.hfov * rad) / 2)) * (v.growth ?? 1);
  const out = new Uint8Array(w * h * 3);
  const time = 2 ** v.ev;
  const [cy, sy, cp, sp, cr, sr] = [
    Math.cos(v.yaw * rad),
    Math.sin(v.yaw * rad),
    Math.cos(v.pitch * rad),
    Math.sin(v.pitch * rad),
    Math.cos(v.roll * rad),
    Math.sin(v.roll * rad),
  ];
  const { width: tw, height: th } = world.sharp;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const a = (x + 0.5 - w / 2) / f;
      const b = (y + 0.5 - h / 2) / f;
      const X0 = a * cr - b * sr;
      const Y0 = a * sr + b * cr;
      const Y = Y0 * cp + sp;
      const Z0 = cp - Y0 * sp;
      const X = X0 * cy + Z0 * sy;
      const Z = Z0 * cy - X0 * sy;
      const u = (Math.atan2(X, Z) / (2 * Math.PI) + 0.5) * tw;
      const t = (Math.atan2(Y, Math.hypot(X, Z)) / Math.PI + 0.5) * th;
      // the subject lies nearer towards the bottom
      const far = v.focus === undefined ? 0 : Math.abs(y / h - v.focus) * 3;
      const layer =
        v.focus === undefined || far < 0.35
          ? world.sharp
          : world.soft[Math.min(2, Math.floor(far))]!;
      const ix = Math.floor(u);
      const iy = clamp(Math.floor(t), 0, th - 2);
      const fx = u - ix;
      const fy = t - iy;
      const x0 = ((ix % tw) + tw) % tw;
      const x1 = (x0 + 1) % tw;
      for (let c = 0; c < 3; c++) {
        const p = layer.planes[c as 0 | 1 | 2];
        const top = p[iy * tw + x0]! * (1 - fx) + p[iy * tw + x1]! * fx;
        const low = p[(iy + 1) * tw + x0]! * (1 - fx) + p[(iy + 1) * tw + x1]! * fx;
        const light = (top + (low - top) * fy) * time;
        out[(y * w + x) * 3 + c] = Math.round(
          255 *
            encode(
              SPACES.srgb.curve,
              clamp(light + gauss() * Math.sqrt(light / 20000 + 6e-7), 0, 1),
            ),
        );
      }
    }
  return out;
}

function covered(seed: number): Uint8Array {
  const rnd = random(seed);
  return Uint8Array.from({ length: W * H * 3 }, () => Math.floor(rnd() * 3));
}

function blurred(s: RadianceImage, r: number): RadianceImage {
  const pass = (
    p: Float32Array,
    step: number,
    length: number,
    other: number,
    skip: number,
  ): Float32Array => {
    const out = new Float32Array(p.length);
    for (let o = 0; o < other; o++)
      for (let i = 0; i < length; i++) {
        let sum = 0;
        for (let k = -r; k <= r; k++)
          sum += p[o * skip + Math.max(0, Math.min(length - 1, i + k)) * step]!;
        out[o * skip + i * step] = sum / (2 * r + 1);
      }
    return out;
  };
  return {
    ...s,
    planes: s.planes.map((p) =>
      pass(pass(p, 1, s.width, s.height, s.width), s.width, s.height, s.width, 1),
    ) as unknown as RadianceImage["planes"],
  };
}
