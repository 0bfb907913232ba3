import { inProcess } from "../../tests/inProcess";
import { random } from "../../core/math/random";
import { planeBytesOf, type Accumulator } from "../../core/raster/accumulator";
import { bandsBy } from "../merge/band";
import { defaultRecipe, parseRecipe } from "../recipe/recipe";
import type { Work } from "../work";
import type { KeptRepair } from "./repairSchema";
import { retouchedBands } from "./retouchedBands";
import { RetouchedScene } from "./retouchedScene";

const W = 200;
const H = 300;
const REPAIRS: KeptRepair[] = [
  { kind: "heal", shape: { type: "spot", x: 0.3, y: 0.35, radius: 0.02 }, softness: 0.3, on: true },
  {
    kind: "clone",
    shape: { type: "spot", x: 0.6, y: 0.33, radius: 0.03 },
    source: { dx: -0.3, dy: 0.02 },
    softness: 0.3,
    on: true,
  },
  {
    kind: "fill",
    shape: {
      type: "outline",
      points: [
        [0.4, 0.6],
        [0.6, 0.6],
        [0.6, 0.7],
        [0.4, 0.7],
      ],
    },
    softness: 0.3,
    on: true,
  },
];

/** Planes of noise over a slope. */
function scene(work: Work, bytes: (at: number, n: number) => Float32Array): Accumulator {
  const planeBytes = planeBytesOf(W, H);
  const acc = { ptr: work.allocate(planeBytes * 4 + 64), planeBytes, width: W, height: H };
  const rnd = random(4);
  for (let c = 0; c < 4; c++) {
    const plane = bytes(acc.ptr + c * planeBytes, W * H);
    for (let i = 0; i < plane.length; i++) plane[i] = c === 3 ? 1 : 0.1 + i / W / H + 0.1 * rnd();
  }
  return acc;
}

const { pool } = inProcess([]);
/** The pixels of all planes, without the room behind each. */
async function planes({ ptr, planeBytes, width, height }: Accumulator): Promise<Float32Array> {
  const bytes = await pool.read(ptr, planeBytes * 4);
  const all = new Float32Array(bytes.buffer.slice(0));
  const out = new Float32Array(width * height * 4);
  for (let c = 0; c < 4; c++) {
    const from = (c * planeBytes) / 4;
    out.set(all.subarray(from, from + width * height), c * width * height);
  }
  return out;
}
async function filled(): Promise<Accumulator> {
  const parts: [number, Float32Array][] = [];
  const acc = scene(pool, (at, n) => {
    const plane = new Float32Array(n);
    parts.push([at, plane]);
    return plane;
  });
  for (const [ptr, plane] of parts)
    await pool.run("put", { ptr, bytes: new Uint8Array(plane.buffer) });
  return acc;
}

test("repairs are taken back to the byte, and those before a change are not made anew", async () => {
  const acc = await filled();
  const before = await planes(acc);
  const retouched = new RetouchedScene(pool, acc, true);
  await retouched.bringTo(REPAIRS, {});
  const all = await planes(acc);
  expect(all).not.toEqual(before);
  expect(retouched.sources[1]).toEqual({ dx: -0.3, dy: 0.02 });
  expect(retouched.sources[0]).toBeDefined();

  const without = REPAIRS.map((r, i) => (i === 1 ? { ...r, on: false } : r));
  await retouched.bringTo(without, {});
  expect(await planes(acc)).not.toEqual(all);
  await retouched.bringTo(REPAIRS, {});
  expect(await planes(acc)).toEqual(all);
  expect(retouched.isAt(REPAIRS)).toBe(true);
  await retouched.bringTo([], {});
  expect(await planes(acc)).toEqual(before);
  retouched.release();
  pool.free(acc.ptr);
});

test("what comes after a change is what it would be if all were made anew", async () => {
  const [one, other] = [await filled(), await filled()];
  const retouched = new RetouchedScene(pool, one, true);
  await retouched.bringTo(REPAIRS, {});
  const shape = { type: "spot", x: 0.8, y: 0.9, radius: 0.01 } as const;
  const far: KeptRepair = { ...REPAIRS[0]!, shape };
  const orders = [
    [REPAIRS[1]!, REPAIRS[2]!],
    [far, ...REPAIRS],
    [REPAIRS[2]!, far, REPAIRS[0]!],
    [...REPAIRS, REPAIRS[0]!, far],
    [REPAIRS[1]!, REPAIRS[0]!, REPAIRS[2]!],
  ];
  for (const repairs of orders) {
    await retouched.bringTo(repairs, {});
    const anew = new RetouchedScene(pool, other, true);
    await anew.bringTo(repairs, {});
    expect(await planes(one)).toEqual(await planes(other));
    expect(retouched.sources).toEqual(anew.sources);
    await anew.bringTo([], {});
  }
  retouched.release();
  for (const acc of [one, other]) pool.free(acc.ptr);
});

test.each([37, 64, 150])(
  "in bands of %p rows the repairs have the bytes of the whole",
  async (rows) => {
    const whole = await filled();
    const untouched = await filled();
    await new RetouchedScene(pool, whole, false).bringTo(REPAIRS, {});
    const line = W * 4;
    const bands = bandsBy(H, rows).map((band) => ({
      ...band,
      async take() {
        const height = band.y1 - band.y0;
        const planeBytes = planeBytesOf(W, height);
        const part = { ptr: pool.allocate(planeBytes * 4 + 64), planeBytes, width: W, height };
        for (let c = 0; c < 4; c++)
          await pool.run("copy", {
            from: untouched.ptr + c * untouched.planeBytes + band.y0 * line,
            to: part.ptr + c * planeBytes,
            bytes: height * line,
          });
        return { rows: part, done: () => pool.free(part.ptr) };
      },
    }));
    const retouched = await retouchedBands(pool, { width: W, height: H, bands }, REPAIRS, {});
    const expected = await planes(whole);
    for (const { y0, y1, take } of retouched.bands) {
      const { rows: part, done } = await take();
      const got = await planes(part);
      const n = (y1 - y0) * W;
      for (let c = 0; c < 4; c++)
        expect(got.subarray(c * n, (c + 1) * n)).toEqual(
          expected.subarray(c * W * H + y0 * W, c * W * H + y1 * W),
        );
      done();
    }
    retouched.release();
    for (const acc of [whole, untouched]) pool.free(acc.ptr);
  },
);

test("a repair in a recipe takes its defaults, and one that is not right is refused by name", () => {
  const recipe = defaultRecipe("bracket");
  const shape = { type: "spot", x: 0.5, y: 0.5, radius: 0.01 };
  const read = parseRecipe({ ...recipe, retouch: { repairs: [{ kind: "heal", shape }] } });
  expect(read.retouch.repairs[0]).toMatchObject({ on: true, kind: "heal" });
  for (const wrong of [
    { kind: "polish", shape },
    { kind: "heal", shape: { ...shape, radius: 3 } },
    { kind: "heal", shape: { type: "stroke", points: [], radius: 0.01 } },
    { kind: "heal", shape, by: "hand" },
    { kind: "clone", shape, source: { dx: NaN, dy: 0 } },
  ])
    expect(() => parseRecipe({ ...recipe, retouch: { repairs: [wrong] } })).toThrow(/retouch/);
});
