import { readFile } from "node:fs/promises";
import Vips from "wasm-vips";
import { openDemoStack, shownAfter, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => { r = await start(); });
afterAll(async () => { await r?.close(); });

test("a sweep is placed, joined and cropped by itself; its frames lie as plates", async () => {
  await openDemoStack(r, 4);
  await r.page.getByText(/7 frames placed, cylindrical, ties 0\.\d\d px/).waitFor();
  expect(await r.page.getByRole("img", { name: "7 of 7 frames placed" }).locator("polygon").count()).toBe(7);
  const size = /Cropped to the largest full rectangle, (\d+) × (\d+) px/.exec(await r.page.getByLabel("Recipe").textContent() ?? "")!;
  expect(Number(size[1])).toBeGreaterThan(5000);
  expect(Number(size[2])).toBeGreaterThan(1800);
});

test("another projection is a change like any other: it is shown, and undone", async () => {
  await r.page.getByRole("button", { name: /^done Panorama/ }).click();
  await shownAfter(r.page, () => r.page.getByLabel("Projection", { exact: true }).selectOption("mercator"));
  await r.page.getByText(/7 frames placed, mercator/).waitFor({ timeout: 60000 });
  await r.page.keyboard.press("Control+z");
  await r.page.getByText(/7 frames placed, cylindrical/).waitFor({ timeout: 60000 });
  await shownAfter(r.page, () => r.page.keyboard.press("s"));
  expect(await r.page.getByRole("region", { name: "Maps" }).getByRole("listitem").count()).toBe(7);
});

test("it is delivered at full size, without its empty borders", async () => {
  const [download] = await Promise.all([r.page.waitForEvent("download", { timeout: 150000 }), r.page.getByRole("button", { name: "Deliver", exact: true }).click()]);
  const vips = await Vips({ dynamicLibraries: [] }), im = vips.Image.newFromBuffer(await readFile((await download.path())!));
  expect(im.width).toBeGreaterThan(5000);
  // no corner is black
  for (const [x, y] of [[2, 2], [im.width - 3, 2], [2, im.height - 3], [im.width - 3, im.height - 3]] as const) expect(Math.max(...(im.getpoint(x, y) as number[]))).toBeGreaterThan(20);
  im.delete();
  expect(r.errors).toEqual([]);
  expect(r.foreign).toEqual([]);
});
