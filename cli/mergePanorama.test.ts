import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { bedroom, frames, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test("merge --as panorama places the ridge's frames, names one that belongs elsewhere, and the same bytes come from one thread", async () => {
  const ridge = frames(433, 3);
  const report = join(folder.dir(), "pano.json");
  const [a, b] = [join(folder.dir(), "a.png"), join(folder.dir(), "b.png")];
  const { code, err } = await run(
    "merge",
    ...ridge,
    bedroom[1]!,
    "--as",
    "panorama",
    "--set",
    "panorama.width=1200",
    "--out",
    a!,
    "--report",
    report,
  );
  expect([code, err]).toEqual([0, ""]);
  const r = JSON.parse(await readFile(report, "utf8")) as {
    kind: string;
    output: { width: number; height: number };
    panorama: {
      projection: string;
      pxPerRadian: number;
      frames: { file: string; focalPx: number; rotation: number[]; rmsPx: number }[];
      leftOut: string[];
    };
    warnings: { code: string; message: string }[];
  };
  expect(r.kind).toBe("panorama");
  expect(r.panorama.leftOut).toEqual(["QM_0430.jpg"]);
  expect(r.warnings[0]).toMatchObject({
    code: "left-out",
    message: expect.stringContaining("QM_0430.jpg") as string,
  });
  for (const f of r.panorama.frames) {
    expect(Math.abs(f.focalPx / 2100 - 1)).toBeLessThan(0.01);
    expect(f.rmsPx).toBeLessThan(0.5);
  }
  expect(r.output.width).toBeGreaterThan(1000);
  expect(r.output.width).toBeLessThanOrEqual(1200);
  await run(
    "merge",
    ...ridge,
    bedroom[1]!,
    "--as",
    "panorama",
    "--set",
    "panorama.width=1200",
    "--threads",
    "1",
    "--out",
    b!,
  );
  expect(Buffer.compare(await readFile(a!), await readFile(b!))).toBe(0);
});
