import { inProcess } from "../../tests/inProcess";
import { AS_TAKEN, type Preparation } from "../../core/frame/preparation";
import { preparedRows } from "../../core/frame/preparedRows";
import { srgbResponse, takeFrame } from "../../simulate/camera";
import { simulatedRoom } from "../../simulate/room";
import { decodeInto } from "../readFrames";

const W = 300;
const H = 520;
const samples = takeFrame(simulatedRoom(W, H, 4), {
  width: W,
  height: H,
  ev: -0.3,
  toScene: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  seed: 6,
  gain: 9000,
  read: 1e-3,
  response: srgbResponse,
}) as Uint8Array;

const KINDS: [string, Partial<Preparation>][] = [
  ["straightened", { distortion: 0.09, vignetting: 0.3, fringeRed: 12 }],
  ["bent the other way", { distortion: -0.12 }],
  ["smoothed", { noise: 0.6 }],
  [
    "healed",
    {
      dust: [
        { x: 0.3, y: 0.36, radius: 0.03 },
        { x: 0.7, y: 0.62, radius: 0.015 },
      ],
    },
  ],
  [
    "all at once",
    { distortion: 0.05, fringeBlue: -8, noise: 0.4, dust: [{ x: 0.5, y: 0.5, radius: 0.02 }] },
  ],
];
test.each(KINDS)(
  "some rows of a frame that is %s are those of the whole, and only what they need is read",
  async (_, part) => {
    const { pool, frames } = inProcess([{ name: "a.png", samples, width: W, height: H }]);
    const preparation: Preparation = { ...AS_TAKEN, ...part };
    const frame = { ...frames[0]!, preparation };
    const whole = await decodeInto(pool, frame, 1);
    const all = await pool.read(whole.ptr, W * H * 6);
    pool.free(whole.ptr);
    for (const rows of [
      [0, 128],
      [176, 336],
      [400, H],
    ] as const) {
      const loaded = await decodeInto(pool, frame, 1, undefined, rows);
      const own = await pool.read(loaded.ptr, W * loaded.height * 6);
      expect([loaded.top, loaded.height]).toEqual([rows[0], rows[1] - rows[0]]);
      expect(
        Buffer.compare(
          Buffer.from(own),
          Buffer.from(all.subarray(rows[0] * W * 6, rows[1] * W * 6)),
        ),
      ).toBe(0);
      pool.free(loaded.ptr);
      const [from, to] = preparedRows(preparation, { width: W, height: H }, rows, 1);
      expect(from).toBeLessThanOrEqual(rows[0]);
      expect(to).toBeGreaterThanOrEqual(rows[1]);
      expect(to - from).toBeLessThan(rows[1] - rows[0] + 220);
    }
    expect(pool.arena.inUse).toBe(0);
  },
);
