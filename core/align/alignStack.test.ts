import { Heap } from "../../kernels/heap";
import { decode, SPACES } from "../colour/spaces";
import { invert, multiply, project } from "../math/matrix3";
import { simulateBracket, type SimulatedBracket } from "../../simulate/bracket";
import { MOVING } from "../../simulate/moving";
import { takeFrame } from "../../simulate/camera";
import { simulatedRoom } from "../../simulate/room";
import { alignStack } from "./alignStack";
import { type AlignedFrame } from "./alignedFrame";

const lut = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);
const W = 1200;
const H = 800;
const scene = simulatedRoom(W + 140, H + 120, 7);

function align(
  set: SimulatedBracket,
  reference: number,
  evs: (number | undefined)[] = set.frames.map((f) => f.ev),
): AlignedFrame[] {
  const heap = Heap.local(W * H * (4 * 18 + 3 * set.frames.length));
  return alignStack(
    heap,
    set.frames.map((f) => ({
      ptr: heap.putBytes(f.samples as Uint8Array),
      type: "u8",
      width: f.width,
      height: f.height,
      lut,
    })),
    evs,
    { motion: "auto", reference, deghost: true, strength: 0.5, forced: [], scale: 1 },
  );
}

/** RMS over the frame of the distance between true and found positions, in px. */
function error(
  set: SimulatedBracket,
  reference: number,
  i: number,
  found: readonly number[],
): number {
  const truth = multiply(invert(set.frames[i]!.toScene), set.frames[reference]!.toScene);
  let sum = 0;
  let n = 0;
  for (let y = 20; y < H; y += 60)
    for (let x = 20; x < W; x += 60) {
      const [a, b] = project(truth, x, y);
      const [c, d] = project(found, x, y);
      sum += (a - c) ** 2 + (b - d) ** 2;
      n++;
    }
  return Math.sqrt(sum / n);
}

describe("alignment of a hand-held bracket over 8 EV", () => {
  // 2.5 times smaller than 6 MP, at which such frames are aligned: the shift and what may be left
  // shrinks with it
  test.each([1, 2])("finds shift, roll and growth, seed %i", (seed) => {
    const set = simulateBracket(scene, {
      width: W,
      height: H,
      evs: [-4, -2, 0, 2, 4],
      baseEv: 0,
      hand: 0.4,
      seed,
      reference: 2,
    });
    const found = align(set, 2);
    const errors = found.map((f, i) => error(set, 2, i, f.fromReference));
    expect(Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / 5)).toBeLessThan(0.1);
    expect(Math.max(...errors)).toBeLessThan(0.2);
    expect(found.every((f) => f.used && !f.warning)).toBe(true);
    found.forEach((f, i) => expect(Math.abs(f.ev - set.frames[i]!.ev)).toBeLessThan(0.05));
  });

  test("a hand that moved by a seventh of the frame and rolled it by five degrees is followed by matched corners", () => {
    const far = simulateBracket(simulatedRoom(W + 400, H + 400, 21), {
      width: W,
      height: H,
      evs: [-4, -2, 0, 2, 4],
      baseEv: 0,
      hand: 4,
      seed: 1,
      reference: 2,
    });
    const found = align(far, 2);
    expect(Math.max(...found.map((f) => f.movedPx))).toBeGreaterThan(W / 7);
    found.forEach((f, i) => {
      expect(f.used).toBe(true);
      expect(error(far, 2, i, f.fromReference)).toBeLessThan(0.2);
    });
  });

  test("a tripod set is not touched", () => {
    const set = simulateBracket(scene, {
      width: W,
      height: H,
      evs: [0, -2, 2, -4, 4],
      baseEv: 0,
      hand: 0,
      seed: 5,
      reference: 0,
    });
    for (const f of align(set, 0)) {
      expect(f.fromReference).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
      expect(f.movedPx).toBe(0);
    }
  });

  test("works without exposure times", () => {
    const set = simulateBracket(scene, {
      width: W,
      height: H,
      evs: [-2, 0, 2],
      baseEv: 0,
      hand: 0.3,
      seed: 9,
      reference: 1,
    });
    const found = align(set, 1, [undefined, undefined, undefined]);
    found.forEach((f, i) => {
      expect(error(set, 1, i, f.fromReference)).toBeLessThan(0.25);
      expect(Math.abs(f.ev - set.frames[i]!.ev)).toBeLessThan(0.1);
    });
  });

  test("a frame that is nearly all clipped is left out by hand, and taken as it lies on a tripod", () => {
    for (const hand of [0.3, 0]) {
      const set = simulateBracket(scene, {
        width: W,
        height: H,
        evs: [-2, 0, 2, 12],
        baseEv: 0,
        hand,
        seed: 6,
        reference: 1,
      });
      const found = align(set, 1);
      expect(found.slice(0, 3).every((f) => f.used && !f.warning)).toBe(true);
      expect(found[3]!.used).toBe(hand === 0);
      expect(found[3]!.warning).toMatch(/too little in common/);
    }
  });

  test("a frame of another room is named and left out", () => {
    const set = simulateBracket(scene, {
      width: W,
      height: H,
      evs: [-2, 0, 2],
      baseEv: 0,
      hand: 0.2,
      seed: 4,
      reference: 1,
    });
    const other = simulateBracket(simulatedRoom(W + 140, H + 120, 99), {
      width: W,
      height: H,
      evs: [2],
      baseEv: 0,
      hand: 0,
      seed: 4,
      reference: 0,
    });
    set.frames[2] = { ...other.frames[0]!, ev: 2 };
    const found = align(set, 1);
    expect(found[0]!.used).toBe(true);
    expect(found[2]!.used).toBe(false);
    expect(found[2]!.warning).toMatch(/does not fit/);
  });
});

test.each([
  ["drifting cloud", 12, 3],
  ["a swaying curtain", 77, 5],
])("%s that moves evenly does not draw a tripod's frame after it", (what, seed, count) => {
  const w = 960;
  const h = 640;
  const room = simulatedRoom(1040, 700, seed);
  const evs = Array.from({ length: count }, (_, i) => (i - (count >> 1)) * 2);
  const frames = evs.map(
    (ev, i) =>
      simulateBracket(room, {
        width: w,
        height: h,
        evs: [ev],
        baseEv: 0,
        hand: 0,
        seed: seed + 40 + i,
        reference: 0,
        shot: { moving: MOVING[what]!(i) },
      }).frames[0]!,
  );
  for (const f of align({ frames }, count >> 1)) expect(f.movedPx).toBe(0);
});

test.each([
  [0.8, 5],
  [2.5, 25],
])(
  "a wide lens turned by %f degrees: the frame is warped by the homography that it is, though it bends by %d px",
  (degrees) => {
    // a camera of 20 mm on 36 mm that yaws and pitches
    const f = (W * 20) / 36;
    const [yaw, pitch] = [(degrees * Math.PI) / 180, (-0.6 * degrees * Math.PI) / 180];
    const K = [f, 0, W / 2, 0, f, H / 2, 0, 0, 1];
    const Y = [Math.cos(yaw), 0, Math.sin(yaw), 0, 1, 0, -Math.sin(yaw), 0, Math.cos(yaw)];
    const P = [1, 0, 0, 0, Math.cos(pitch), -Math.sin(pitch), 0, Math.sin(pitch), Math.cos(pitch)];
    const inScene = [1, 0, (scene.width - W) / 2, 0, 1, (scene.height - H) / 2, 0, 0, 1];
    const turned = multiply(inScene, multiply(multiply(K, multiply(Y, P)), invert(K)));
    const set: SimulatedBracket = {
      frames: [
        [-2, turned],
        [0, inScene],
        [2, inScene],
      ].map(([ev, toScene], i) => ({
        samples: takeFrame(scene, {
          width: W,
          height: H,
          ev: ev as number,
          toScene: toScene as number[],
          seed: 70 + i,
        }),
        width: W,
        height: H,
        ev: ev as number,
        toScene: toScene as number[],
      })) as SimulatedBracket["frames"],
    };
    const found = align(set, 1);
    process.stdout.write(
      `turned by ${degrees} degrees: ${error(set, 1, 0, found[0]!.fromReference).toFixed(2)} px\n`,
    );
    expect(error(set, 1, 0, found[0]!.fromReference)).toBeLessThan(0.15);
  },
);

test("a thing that moved gets no weight, and the rest of the frame keeps its own", () => {
  const thing =
    (cx: number) =>
    (x: number, y: number, rgb: [number, number, number]): void => {
      if (Math.abs(x - cx) < 60 && Math.abs(y - 600) < 130) rgb[0] = rgb[1] = rgb[2] = 0.3;
    };
  const at = [400, 700, 1000];
  const set = {
    frames: at.map(
      (cx, i) =>
        simulateBracket(scene, {
          width: W,
          height: H,
          evs: [[-2, 0, 2][i]!],
          baseEv: 0,
          hand: 0,
          seed: 3 + i,
          reference: 0,
          shot: { moving: thing(cx) },
        }).frames[0]!,
    ),
  };
  const found = align(set, 1);
  const confidences = (f: AlignedFrame, x: number, y: number): number =>
    f.ghosts ? f.ghosts.confidences[Math.floor(y / 2) * f.ghosts.width + Math.floor(x / 2)]! : 255;
  // the frame's own thing, and where the reference frame shows it
  const dx = -70;
  const dy = -60;
  expect(confidences(found[0]!, 400 + dx, 600 + dy)).toBeLessThan(30);
  expect(confidences(found[0]!, 700 + dx, 600 + dy)).toBeLessThan(30);
  expect(confidences(found[0]!, 200, 700)).toBe(255);
  expect(found[0]!.ghosts!.share).toBeLessThan(0.2);
});

test("a cloud that drifts through a third of the picture pulls no frame after it, though its light changes by less than noise", () => {
  // what a dark frame sees well is the cloud; the ground is in its shadows
  const taken = (ev: number, i: number, hand: number) =>
    simulateBracket(scene, {
      width: W,
      height: H,
      evs: [ev],
      baseEv: 0,
      hand,
      seed: 35 + i,
      reference: hand ? -1 : 0,
      shot: {
        moving: (x, y, rgb) => MOVING["drifting cloud"]!(i)((x * 1000) / W, (y * 1000) / W, rgb),
      },
    }).frames[0]!;
  const set = { frames: [-4, -2, 0, 2, 4].map((ev, i) => taken(ev, i, i === 2 ? 0 : 0.4)) };
  const found = align(set, 2);
  const errors = found.map((f, i) => error(set, 2, i, f.fromReference));
  process.stdout.write(
    `under a drifting cloud: ${errors.map((e) => e.toFixed(2)).join(", ")} px\n`,
  );
  expect(Math.max(...errors)).toBeLessThan(0.35);
  expect(Math.max(...errors.slice(1))).toBeLessThan(0.12);
});
