import { decode, encode, SPACES, toWorking } from "../core/colour/spaces";
import { apply } from "../core/math/matrix3";
import { simulateFocusRun } from "./focusRun";
import { simulatedRoom } from "./room";
import { haloPlaces, scoreFocus } from "./scoreFocus";

const W = 360;
const H = 240;
const run = simulateFocusRun(simulatedRoom(W, H, 3), {
  width: W,
  height: H,
  count: 2,
  blur: 1,
  seed: 3,
});
const places = haloPlaces(run);
const light = (code: number): number => decode(SPACES.srgb.curve, code / 255);
/** Planes of sRGB codes as light in the working space. */
function working(codes: readonly Float32Array[]): Float32Array[] {
  const out = [0, 1, 2].map(() => new Float32Array(W * H));
  const matrix = toWorking("srgb");
  for (let i = 0; i < W * H; i++)
    apply(matrix, [light(codes[0]![i]!), light(codes[1]![i]!), light(codes[2]![i]!)]).forEach(
      (v, c) => {
        out[c]![i] = v;
      },
    );
  return out;
}
const scene = (): Float32Array[] =>
  [0, 1, 2].map((c) => Float32Array.from({ length: W * H }, (_, i) => run.sharp[i * 3 + c]!));
/**
 * The scene with the ground beside every place darkened by a share of its contrast, so many px far.
 */
function haloed(reach: number, share: number): Float32Array[] {
  const planes = scene();
  for (const { y, edges, side } of places)
    edges.forEach((e, k) => {
      for (let d = 1; d <= reach; d++) {
        const i = (y + k) * W + e + side * d;
        const ground = light(run.sharp[i * 3 + 1]!);
        const dark = light(run.sharp[((y + k) * W + e - side) * 3 + 1]!);
        planes[1]![i] =
          255 * encode(SPACES.srgb.curve, Math.max(0, ground - share * (ground - dark)));
      }
    });
  return planes;
}

test("the scene itself has no halo and no error", () => {
  expect(places.length).toBeGreaterThan(10);
  expect(scoreFocus(run, working(scene()), places).wide).toBe(0);
  expect(scoreFocus(run, working(scene()), places).db).toBeGreaterThan(100);
  // nor where it is brighter all over, as the frame it is warped onto is
  const brighter = scoreFocus(
    run,
    working(scene()).map((p) => p.map((v) => v * 1.04)),
    places,
  );
  expect(brighter.wide).toBe(0);
  expect(brighter.db).toBeGreaterThan(100);
});

test("a halo counts from the third px on, and from 5 % of the contrast", () => {
  expect(scoreFocus(run, working(haloed(2, 0.3)), places).wide).toBe(0);
  expect(scoreFocus(run, working(haloed(6, 0.02)), places).wide).toBe(0);
  expect(scoreFocus(run, working(haloed(6, 0.15)), places).wide).toBeGreaterThan(
    0.8 * places.length,
  );
});

test("ground that is soft is no halo, a bristle's blur over it is one", () => {
  const run = simulateFocusRun(simulatedRoom(W, H, 3), {
    width: W,
    height: H,
    count: 7,
    blur: W / 40,
    seed: 3,
  });
  const ground = run.ground();
  const places = haloPlaces(run);
  const green = (light: (i: number) => number): Float32Array[] =>
    scene().map((p, c) =>
      c === 1 ? Float32Array.from(p, (_, i) => 255 * encode(SPACES.srgb.curve, light(i))) : p,
    );
  // the ground as the nearest focus shows it, with sharp bristles before it
  const soft = scoreFocus(
    run,
    working(
      green((i) =>
        Math.abs(run.depth[i]! - (1 - Math.floor(i / W) / (H - 1))) > 1e-6
          ? light(run.sharp[i * 3 + 1]!)
          : ground[0]![i]!,
      ),
    ),
    places,
    ground,
  );
  expect(soft.wide).toBeGreaterThan(0.2 * places.length);
  expect(soft.halos).toBe(0);
  // a frame as it is, focused on the far end
  const far = scoreFocus(
    run,
    working(green((i) => light(run.frames.at(-1)!.samples[i * 3 + 1]!))),
    places,
    ground,
  );
  expect(far.halos).toBeGreaterThan(0.4 * places.length);
  expect(scoreFocus(run, working(haloed(6, 0.15)), places, ground).halos).toBeGreaterThan(
    0.3 * places.length,
  );
});

test("PSNR is that of an error over what all frames cover", () => {
  expect(
    scoreFocus(
      run,
      working(scene().map((p) => p.map((v, i) => v + (i % 2 ? 2.55 : -2.55)))),
      places,
    ).db,
  ).toBeCloseTo(40, 1);
});
