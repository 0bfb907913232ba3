import { random } from "../../math/random";
import { patchFill } from "./patchFill";

const W = 180;
const H = 90;
/** A sky that fades, a ridge, and striped ground, with some grain. */
function scene(): Float32Array {
  const rnd = random(5);
  const out = new Float32Array(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const grain = (rnd() - 0.5) * 0.02;
      const ground = y > 50 + 3 * Math.sin(x / 9);
      const stripe = (x + 2 * y) % 12 < 6 ? 0.3 : 0.45;
      const c = ground ? [stripe, stripe * 0.8, 0.1] : [0.4 + y / 200, 0.55 + y / 250, 0.9];
      for (let k = 0; k < 3; k++) out[(y * W + x) * 3 + k] = c[k]! + grain;
    }
  return out;
}
/** Known but for wedges at the corners, as a bent row of frames leaves them. */
const wedges = (): Uint8Array =>
  Uint8Array.from({ length: W * H }, (_, i) => {
    const x = i % W;
    const y = Math.floor(i / W);
    const out = (Math.abs(x - W / 2) / (W / 2)) ** 2 * 12;
    return y >= out && y < H - out && x > 3 ? 1 : 0;
  });

test("corners are filled with sky above and ground below, and the known is left as it was", () => {
  const truth = scene();
  const known = wedges();
  const holed = truth.slice();
  for (let i = 0; i < W * H; i++) if (!known[i]) holed.fill(NaN, i * 3, i * 3 + 3);
  const { colour, dx, dy } = patchFill(W, H, holed, known);
  let sky = 0;
  let ground = 0;
  let off = 0;
  let ns = 0;
  let ng = 0;
  for (let i = 0; i < W * H; i++) {
    if (known[i]) {
      for (let c = 0; c < 3; c++) if (colour[i * 3 + c] !== truth[i * 3 + c]) off++;
      continue;
    }
    expect(Number.isFinite(colour[i * 3]!)).toBe(true);
    const s = (Math.floor(i / W) + dy[i]!) * W + (i % W) + dx[i]!;
    expect(known[s]).toBe(1);
    const error = Math.hypot(...[0, 1, 2].map((c) => colour[i * 3 + c]! - truth[i * 3 + c]!));
    if (i < (W * H) / 2) {
      sky += error;
      ns++;
    } else {
      ground += error;
      ng++;
    }
  }
  expect(off).toBe(0);
  expect(sky / ns).toBeLessThan(0.06);
  expect(ground / ng).toBeLessThan(0.15);
});

test("a picture with nothing unknown stays, and one with nothing known is not waited for", () => {
  const all = scene();
  expect(patchFill(W, H, all, new Uint8Array(W * H).fill(1)).colour).toEqual(all);
  expect(patchFill(20, 20, new Float32Array(1200), new Uint8Array(400)).width).toBe(20);
});

test("the same picture is filled the same way twice", () => {
  const known = wedges();
  expect(patchFill(W, H, scene(), known).colour).toEqual(patchFill(W, H, scene(), known).colour);
});
