import { readFile, writeFile } from "node:fs/promises";
import { decode, SPACES } from "../core/colour/spaces";
import { random } from "../core/math/random";
import { straightEdges } from "../core/panorama/level/findLevel";
import { makeSmallFrame } from "../core/panorama/seams/smallFrame";
import { findUpright } from "../core/straighten/findUpright";
import { Heap } from "../kernels/heap";
import { photographBuilding } from "../simulate/building";
import { ownFolder, run } from "../tests/cli/calls";
import { codec, input, written } from "../tests/files/codecs";

const { path } = ownFolder();
const [WIDTH, HEIGHT] = [1200, 800];
const MM = 20;

/** What edges of a written picture say of how its camera was held. */
async function heldBy(file: string, focalPx: number): Promise<ReturnType<typeof findUpright>> {
  const { samples, width, height } = await codec.decode(await readFile(file), file, 1);
  const heap = Heap.local(64 << 20);
  const ptr = heap.alloc(samples.length);
  heap.u8(ptr, samples.length).set(samples as Uint8Array);
  const lut = Float32Array.from({ length: 768 }, (_, i) =>
    decode(SPACES.srgb.curve, (i & 255) / 255),
  );
  const small = makeSmallFrame(heap, { ptr, type: "u8", width, height, lut }, 1, WIDTH);
  return findUpright(straightEdges(small), { width, height, focalPx });
}

test.each([
  ["room", 5, { yaw: 20, pitch: 11, roll: -3 }],
  ["house", 4, { yaw: -10, pitch: 9, roll: 4 }],
] as const)(
  "a %s that was taken askew is set upright by its edges, and the report says so",
  async (kind, seed, held) => {
    const focalPx = (MM / 36) * WIDTH;
    const lens = { width: WIDTH, height: HEIGHT, focalPx };
    const samples = photographBuilding(kind, seed, lens, held);
    const frame = path(`${kind}.jpg`);
    const exif = { focalLength35: MM, exposureTime: 0.01, aperture: 8, iso: 100 };
    await writeFile(
      frame,
      await written({
        ...input(samples, { format: "jpg", quality: 95 }),
        width: WIDTH,
        height: HEIGHT,
        metadataFrom: { bytes: new Uint8Array(), name: "shot.dng", exif },
      }),
    );
    const [out, report] = [path(`${kind}.png`), path(`${kind}.json`)];
    const settings = ["edges.upright=auto", "edges.extent=whole", "edges.mode=keep"];
    const done = await run(
      ...["merge", frame, "--as", "bracket", "--depth", "8", "--out", out, "--report", report],
      ...settings.flatMap((setting) => ["--set", setting]),
    );
    expect(done).toMatchObject({ code: 0 });
    const { straightened, warnings } = JSON.parse(await readFile(report, "utf8")) as {
      straightened: { by: string; found: { pitch: number; roll: number } };
      warnings: { code: string }[];
    };
    expect(straightened.by).toBe("edges");
    expect(Math.abs(straightened.found.pitch - held.pitch)).toBeLessThan(0.2);
    expect(Math.abs(straightened.found.roll - held.roll)).toBeLessThan(0.2);
    expect(warnings.map(({ code }) => code)).not.toContain("upright-unknown");
    // what is vertical is vertical in the picture: no lens tells it apart from one that stands upright
    const after = (await heldBy(out, focalPx))!;
    expect(Math.abs(after.pitch)).toBeLessThan(0.3);
    expect(Math.abs(after.roll)).toBeLessThan(0.2);
  },
  60_000,
);

test("a picture without verticals stays as it is, and the report says that", async () => {
  const width = 600;
  const height = 400;
  const uniform = random(7);
  const samples = new Uint8Array(width * height * 3).map(() => 90 + 40 * uniform());
  const frame = path("sand.png");
  await writeFile(frame, await written({ ...input(samples, { format: "png" }), width, height }));
  const report = path("sand.json");
  const done = await run(
    ...["merge", frame, "--as", "bracket", "--out", path("sand-out.png"), "--report", report],
    ...["--set", "edges.upright=auto"],
  );
  expect(done).toMatchObject({ code: 0 });
  const said = JSON.parse(await readFile(report, "utf8")) as { warnings: { code: string }[] };
  expect(said.warnings.map(({ code }) => code)).toContain("upright-unknown");
});
