import { readFile } from "node:fs/promises";
import Vips from "wasm-vips";
import { mean, merged, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

test("a sphere that is opened while its frames still come in grows to all of them, under the same address", async () => {
  const { page, base } = r;
  await page.goto(`${base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).click({ timeout: 180000 });
  const row = page
    .getByRole("grid", { name: "Stacks" })
    .getByRole("row")
    .filter({ hasText: "QM_0481 to" });
  await row.locator("a").first().click({ timeout: 180000 });
  await page.waitForURL(/\/shoots\/[^/]+\/[^/]+$/);
  const address = page.url();
  await page
    .getByText(
      /27 frames placed, 1 of them from beside, equirectangular, level by [^,]*, ±[\d.]+°, ties 0\.\d\d px/,
    )
    .waitFor({ timeout: 300000 });
  await merged(page);
  expect(page.url()).toBe(address);
  expect(await page.getByRole("img", { name: "27 of 27 frames placed" }).count()).toBe(1);
  await page.getByText("Cropped to the largest full rectangle, 3770 × 1885 px").waitFor();
});

test("it shows something up to both poles, and can be looked round in by keys at once", async () => {
  const { page } = r;
  // the ceiling and the rug, and neither black
  for (const y of [0.29, 0.69])
    for (const v of await mean(page, { x: 0.1, y, w: 0.8, h: 0.01 })) expect(v).toBeGreaterThan(20);
  await page.getByRole("button", { name: "360° view" }).click();
  const inside = page.getByLabel("The panorama from within");
  await inside.locator("canvas").waitFor();
  await page.waitForFunction(
    () => document.activeElement?.getAttribute("aria-label") === "The panorama from within",
  );
  const ahead = await inside.screenshot();
  for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowRight");
  expect(Buffer.compare(ahead, await inside.screenshot())).not.toBe(0);
  await page.keyboard.press("Escape");
  await inside.waitFor({ state: "detached" });
});

test("delivered, it is a whole sphere by size, fields and pixels, and its two ends meet", async () => {
  const { page } = r;
  await page.waitForFunction(() => !document.body.textContent?.includes("Full size, "), null, {
    timeout: 300000,
  });
  const [download] = await Promise.all([
    page.waitForEvent("download", { timeout: 300000 }),
    (async () => {
      await page.getByRole("button", { name: "Deliver", exact: true }).first().click();
    })(),
  ]);
  const vips = await Vips({ dynamicLibraries: [] });
  const bytes = await readFile((await download.path())!);
  const im = vips.Image.newFromBuffer(bytes);
  const w = im.width;
  const h = im.height;
  expect([w, h]).toEqual([3770, 1885]);
  expect(bytes.includes(Buffer.from("equirectangular"))).toBe(true);
  const px = im.writeToMemory() as Uint8Array;
  const apart = (a: number, b: number): number => {
    let s = 0;
    for (let y = 0; y < h; y++)
      for (let c = 0; c < 3; c++)
        s += Math.abs(px[(y * w + a) * 3 + c]! - px[(y * w + b) * 3 + c]!);
    return s / h / 3;
  };
  // blocks of a JPEG end there too
  expect(apart(w - 1, 0)).toBeLessThan(2.5 * Math.max(1, apart(w / 2 - 1, w / 2)));
  const darkest = (y: number): number => {
    let least = 255;
    for (let x = 0; x < w; x++)
      least = Math.min(
        least,
        Math.max(px[(y * w + x) * 3]!, px[(y * w + x) * 3 + 1]!, px[(y * w + x) * 3 + 2]!),
      );
    return least;
  };
  for (const y of [2, h - 3]) expect(darkest(y)).toBeGreaterThan(12);
  im.delete();
});
