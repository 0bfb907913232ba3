import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import {
  eventually,
  FRAMES,
  mean,
  merged,
  openDemoStack,
  type Running,
  saved,
  shownAfter,
  start,
} from "./harness";
import { clamp } from "../../core/math/clamp";

let r: Running;
beforeAll(async () => {
  r = await start();
  await openDemoStack(r, 3);
});
afterAll(async () => {
  await r?.close();
});

const sentence = (text: string | RegExp) =>
  r.page.getByText(text).first().waitFor({ timeout: 180000 });

/** Waits until a change is stored and can be undone. */
const kept = (change: RegExp) =>
  r.page.waitForFunction(
    (source) =>
      new RegExp(source).test(
        [...document.querySelectorAll("button")]
          .find((button) => button.textContent === "Undo")
          ?.getAttribute("aria-description") ?? "",
      ),
    change.source,
  );

test("corners are evened in every frame before the merge, over a reload, and undone", async () => {
  const { page } = r;
  const part = { x: 0.05, y: 0.25, w: 0.04, h: 0.04 };
  const before = Math.max(...(await mean(page, part)));
  await page
    .getByRole("button", { name: /Prepare/ })
    .first()
    .click();
  const corners = page.getByRole("slider", { name: "Vignetting" });
  const stack = page.url();
  // the slider's keys are its own: those of the screen would go to the stack before, and close the
  // step
  await shownAfter(page, async () => {
    for (let i = 0; i < 10; i++) await corners.press("PageUp");
  });
  await sentence(/lens corrected/);
  expect([page.url(), await corners.evaluate((e) => e === document.activeElement)]).toEqual([
    stack,
    true,
  ]);
  // a run of key presses is kept when it pauses
  await page.locator("button:enabled", { hasText: "Undo" }).waitFor();
  await page.reload();
  await merged(page);
  await sentence(/lens corrected/);
  expect(Math.max(...(await mean(page, part)))).toBeGreaterThan(before + 3);
  await page.keyboard.press("Control+z");
  await sentence("White balance as shot");
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, {
    timeout: 180000,
  });
});

test("one frame is smoothed and whitened otherwise than the rest, over a reload; it is as the others again, and that is undone", async () => {
  const { page } = r;
  const open = async (): Promise<void> => {
    if (!(await page.getByRole("heading", { name: "Settings of single frames" }).isVisible()))
      await page
        .getByRole("button", { name: /Prepare/ })
        .first()
        .click();
  };
  const list = page.getByRole("region", { name: "Fewer frames" }).getByRole("button");
  await open();
  const name = (await list.first().textContent())!;
  await list.first().click();
  const own = page.getByRole("region", { name: `Only ${name}` });
  await own.getByRole("slider", { name: `Noise of ${name}` }).press("End");
  await own.getByRole("slider", { name: `Temperature of ${name}` }).press("PageUp");
  await sentence(/1 frame otherwise/);
  await kept(/^Temperature of QM/);
  await page.reload();
  await merged(page);
  await sentence(/1 frame otherwise/);
  await open();
  // the list tells what it has, and leads to it
  await page.getByRole("button", { name: new RegExp(`^${name}.*white.*noise 100 %`) }).click();
  await own.getByRole("button", { name: "As the others" }).click();
  await sentence("White balance as shot");
  await page.keyboard.press("Control+z");
  await sentence(/1 frame otherwise/);
  for (let i = 0; i < 2; i++) await page.keyboard.press("Control+z");
  await sentence("White balance as shot");
  await page.keyboard.press("Escape");
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, {
    timeout: 180000,
  });
});

test("the lens is measured by a frame of the stack: what was set wrong is set right, and that is undone", async () => {
  const { page } = r;
  const distortion = page.getByRole("slider", { name: "Distortion" });
  if (!(await distortion.isVisible()))
    await page
      .getByRole("button", { name: /Prepare/ })
      .first()
      .click();
  await shownAfter(page, async () => {
    for (let i = 0; i < 3; i++) await distortion.press("PageUp");
  });
  await sentence(/lens corrected/);
  await page.getByRole("button", { name: "Measure", exact: true }).click();
  await sentence(
    /No distortion, by \d+ edges\. (No vignetting, by \d+ frames that moved|The camera moved too little to measure vignetting: set it by eye)\. No fringes, by \d+ places\./,
  );
  await sentence("White balance as shot");
  expect(await distortion.getAttribute("aria-valuenow")).toBe("0");
  await page.keyboard.press("Control+z");
  await sentence(/lens corrected/);
  await page.keyboard.press("Control+z");
  await sentence("White balance as shot");
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, {
    timeout: 180000,
  });
});

test("a part in another light gets a white of its own, over a reload; it is switched off, picked for, and undone", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  const inside = { x: 0.68, y: 0.42, w: 0.06, h: 0.06 };
  const outside = { x: 0.15, y: 0.7, w: 0.06, h: 0.06 };
  const warmth = async (part: typeof inside): Promise<number> => {
    const [red, , blue] = await mean(page, part);
    return red! / blue!;
  };
  const before = [await warmth(inside), await warmth(outside)];
  if (!(await page.getByRole("button", { name: "Light: Outline" }).isVisible()))
    await page
      .getByRole("button", { name: /Prepare/ })
      .first()
      .click();
  await page.getByRole("button", { name: "Light: Outline" }).click();
  const corners = (
    [
      [0.6, 0.35],
      [0.8, 0.35],
      [0.8, 0.6],
      [0.6, 0.6],
      [0.6, 0.36],
    ] as const
  ).map(([x, y]) => [box.x + x * box.width, box.y + y * box.height] as const);
  await page.mouse.move(...corners[0]!);
  await page.mouse.down();
  for (const c of corners.slice(1)) await page.mouse.move(...c, { steps: 6 });
  await page.mouse.up();
  await sentence(/local white balance in 1 area/);
  const white = page.getByRole("slider", { name: "Temperature of light 1" });
  await shownAfter(page, async () => {
    await white.focus();
    for (let i = 0; i < 6; i++) await page.keyboard.press("PageDown");
  });
  // a run of key presses is kept when it pauses
  await saved(page);
  await page.reload();
  await merged(page);
  await sentence(/local white balance in 1 area/);
  expect(await warmth(inside)).toBeLessThan(before[0]! * 0.85);
  expect(Math.abs((await warmth(outside)) / before[1]! - 1)).toBeLessThan(0.06);
  await page
    .getByRole("button", { name: /Prepare/ })
    .first()
    .click();
  await shownAfter(page, () => page.getByRole("checkbox", { name: "Light 1 is on" }).click());
  await sentence("White balance as shot");
  expect(Math.abs((await warmth(inside)) / before[0]! - 1)).toBeLessThan(0.06);
  await page.keyboard.press("Control+z");
  await sentence(/local white balance in 1 area/);
  await page.getByRole("button", { name: "Pick a neutral for light 1" }).click();
  await shownAfter(page, () =>
    page.mouse.click(box.x + box.width * 0.7, box.y + box.height * 0.45),
  );
  // what was picked has become grey
  await page.waitForFunction(
    () =>
      document
        .querySelector("button[aria-label='Pick a neutral for light 1']")
        ?.getAttribute("aria-pressed") === "false",
  );
  expect(Math.abs((await warmth({ x: 0.695, y: 0.445, w: 0.01, h: 0.01 })) - 1)).toBeLessThan(0.12);
  await page.getByRole("button", { name: "Delete light 1" }).click();
  await sentence("White balance as shot");
});

test("a spot of dust is marked on the picture and taken back", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  if (!(await page.getByRole("button", { name: "Mark dust" }).isVisible()))
    await page
      .getByRole("button", { name: /Prepare/ })
      .first()
      .click();
  await page.getByRole("button", { name: "Mark dust" }).click();
  await page.mouse.click(box.x + box.width * 0.6, box.y + box.height * 0.4);
  await sentence(/1 dust spot/);
  await page.getByRole("button", { name: "Take back" }).click();
  await sentence("White balance as shot");
  await page.keyboard.press("Escape");
  await page.keyboard.press("#");
  expect(await page.getByRole("button", { name: "Grid" }).getAttribute("aria-pressed")).toBe(
    "true",
  );
  expect(r.errors).toEqual([]);
});

test("dust that lies in the same place of every frame is found, looked at, healed and undone", async () => {
  const { page } = r;
  const vips = await Vips({ dynamicLibraries: [] });
  const spots = [
    [0.892, 0.301],
    [0.68, 0.367],
    [0.582, 0.064],
  ] as const;
  const files: string[] = [];
  // soft shadows on the wall and the ceiling
  const [W, H] = [2160, 1440];
  const factors = new Float32Array(W * H).fill(1);
  for (const [sx, sy] of spots)
    for (let y = -12; y <= 12; y++)
      for (let x = -12; x <= 12; x++)
        factors[(Math.round(sy * H) + y) * W + Math.round(sx * W) + x] =
          1 - 0.09 * clamp(2.2 * (1 - Math.hypot(x, y) / 11), 0, 1);
  const shade = vips.Image.newFromMemory(factors, W, H, 1, vips.BandFormat.float);
  for (const n of [429, 430, 431]) {
    const file = join(r.dir, `QM_0${n}.jpg`);
    const frame = vips.Image.newFromBuffer(await readFile(join(FRAMES, `QM_0${n}.jpg`)));
    await writeFile(
      file,
      frame.multiply(shade).cast(vips.BandFormat.uchar).jpegsaveBuffer({ Q: 94 }),
    );
    files.push(file);
  }
  await page.goto(`${r.base}/shoots`);
  await page.getByLabel("Files to bring in").first().setInputFiles(files);
  await page.waitForURL(/shoots\/[^/]+$/);
  await page.locator("[role=row]", { hasText: "QM_0429" }).first().click();
  await page.keyboard.press("Enter");
  await page.waitForURL(/shoots\/[^/]+\/[^/]+$/);
  await merged(page);
  await page
    .getByRole("button", { name: /Prepare/ })
    .first()
    .click();
  await page.getByRole("button", { name: "Find dust" }).click();
  await sentence(/3 likely, over 3 frames/);
  await page.getByRole("button", { name: "Heal", exact: true }).click();
  await sentence(/3 dust spots/);
  // as the shoot's frames are to be from now on: another stack, brought in later, begins so
  const ofShoot = page.getByRole("checkbox", { name: "For new stacks of this shoot" });
  await ofShoot.click();
  await eventually(async () => expect(await ofShoot.isChecked()).toBe(true));
  await page.getByRole("link", { name: /Shoot of/ }).click();
  await page
    .getByLabel("Files to bring in")
    .first()
    .setInputFiles([417, 418, 419, 420, 421, 422, 423].map((n) => join(FRAMES, `QM_0${n}.jpg`)));
  await page.locator("[role=row]", { hasText: "QM_0417" }).first().click({ timeout: 180000 });
  await page.keyboard.press("Enter");
  await page.waitForURL(/shoots\/[^/]+\/[^/]+$/);
  await merged(page);
  await sentence(/3 dust spots/);
  expect(r.errors).toEqual([]);
});
