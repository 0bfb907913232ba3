import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { simulateFocusRun } from "../simulate/focusRun";
import { simulatedRoom } from "../simulate/room";
import { ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test("merge --as focus: sharper than any frame, in whatever order they come", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const run_ = simulateFocusRun(simulatedRoom(360, 240, 8), {
    width: 360,
    height: 240,
    count: 8,
    blur: 12,
    breathing: 0.01,
    seed: 2,
  });
  const order = [3, 0, 6, 2, 7, 5, 1, 4];
  const files = await Promise.all(
    order.map(async (i, k) => {
      const file = join(folder.dir(), `focus${k}.png`);
      const im = vips.Image.newFromMemory(
        run_.frames[i]!.samples,
        360,
        240,
        3,
        vips.BandFormat.uchar,
      ).copy({ interpretation: "srgb" });
      await writeFile(file, im.pngsaveBuffer());
      im.delete();
      return file;
    }),
  );
  const out = join(folder.dir(), "focus.png");
  const report = join(folder.dir(), "focus.json");
  const { code, err } = await run(
    "merge",
    ...files,
    "--as",
    "focus",
    "--set",
    "edges.mode=keep",
    "--out",
    out,
    "--depth",
    "8",
    "--report",
    report,
  );
  expect([code, err]).toEqual([0, ""]);
  const found = (
    JSON.parse(await readFile(report, "utf8")) as { focus: { order: string[] } }
  ).focus.order.map((n) => order[Number(/\d+/.exec(n)![0])]!);
  const steps = found.slice(1).map((v, i) => v - found[i]!);
  expect(Math.abs(steps.reduce((a, b) => a + Math.sign(b), 0))).toBeGreaterThanOrEqual(5);
  const pixels = (b: Uint8Array): Uint8Array => {
    const im = vips.Image.newFromBuffer(b);
    const p = im.writeToMemory() as Uint8Array;
    im.delete();
    return p;
  };
  // mean square off the scene all in focus, away from the border
  const off = (p: Uint8Array): number => {
    let sum = 0;
    for (let y = 20; y < 220; y++)
      for (let i = (y * 360 + 20) * 3; i < (y * 360 + 340) * 3; i++)
        sum += (p[i]! - run_.sharp[i]!) ** 2;
    return sum / (200 * 320 * 3);
  };
  const slope = (p: Uint8Array): number => {
    let s = 0;
    for (let y = 20; y < 220; y++)
      for (let x = 20; x < 340; x++)
        s += Math.abs(p[(y * 360 + x) * 3 + 1]! - p[(y * 360 + x + 1) * 3 + 1]!);
    return s;
  };
  const fused = pixels(await readFile(out));
  const steepest = Math.max(...run_.frames.map((f) => slope(f.samples)));
  const nearest = Math.min(...run_.frames.map((f) => off(f.samples)));
  process.stdout.write(
    `focus run: ${(slope(fused) / steepest).toFixed(2)} times the slopes of the sharpest frame, ${off(fused).toFixed(1)} off the scene in the mean square, the best frame ${nearest.toFixed(1)}\n`,
  );
  expect(slope(fused)).toBeGreaterThan(steepest * 1.12);
  expect(off(fused)).toBeLessThan(nearest / 4);
});
