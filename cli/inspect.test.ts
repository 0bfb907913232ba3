import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { bedroom, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();

test("inspect tells size, exposure and clipping", async () => {
  const { code, out } = await run("inspect", "--json", bedroom[1]!);
  expect(code).toBe(0);
  expect(JSON.parse(out)[0]).toMatchObject({
    format: "jpeg",
    width: 2160,
    height: 1440,
    depth: 8,
    aperture: 5.6,
    iso: 200,
    exposureTime: 1,
    camera: "Quillmoor Stand-in 24",
  });
});

test("inspect of several files tells what it can of each, also where the pixels of one are damaged", async () => {
  const half = join(folder.dir(), "half.jpg");
  await writeFile(half, (await readFile(bedroom[0]!)).subarray(0, 50000));
  const { code, out, err } = await run("inspect", half, bedroom[1]!, "--json");
  expect(code).toBe(1);
  expect((JSON.parse(out) as { file: string }[]).map((r) => r.file)).toEqual([bedroom[1]]);
  expect(err).toContain("half.jpg");
});
