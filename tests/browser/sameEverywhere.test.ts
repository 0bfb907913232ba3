import { execFileSync } from "node:child_process";
import { join } from "node:path";
import { choose, FRAMES, openDemoStack, openStep, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

test("the page delivers the samples that the command line writes", async () => {
  const { page, dir } = r;
  const saved = join(dir, "page.tif");
  const written = join(dir, "line.tif");
  await openDemoStack(r, 3);
  await openStep(page, "deliver");
  await choose(page, "Format", "TIFF");
  const download = page.waitForEvent("download", { timeout: 300000 });
  await page.getByRole("button", { name: /Render and save/ }).click();
  await (await download).saveAs(saved);
  execFileSync("bin/rhizome", [
    "merge",
    ...[429, 430, 431].map((n) => join(FRAMES, `QM_0${n}.jpg`)),
    "--as",
    "bracket",
    "--out",
    written,
  ]);
  // no sample of 65536 may differ by more than one
  const peak = execFileSync(
    "sh",
    ["-c", `compare -metric PAE "${saved}" "${written}" null: 2>&1 || true`],
    { encoding: "utf8" },
  );
  expect(Number.parseFloat(peak)).toBeLessThanOrEqual(1);
});
