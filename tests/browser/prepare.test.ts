import { merged, mean, openDemoStack, shownAfter, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => { r = await start(); await openDemoStack(r, 3); });
afterAll(async () => { await r?.close(); });

const sentence = (text: string | RegExp) => r.page.getByText(text).first().waitFor({ timeout: 60000 });

test("corners are evened in every frame before the merge, over a reload, and undone", async () => {
  const { page } = r, part = { x: 0.05, y: 0.25, w: 0.04, h: 0.04 }, before = Math.max(...(await mean(page, part)));
  await page.getByRole("button", { name: /Prepare/ }).first().click();
  const corners = page.getByRole("slider", { name: "Corners" }), stack = page.url();
  // the slider's keys are its own: those of the screen would go to the stack before, and close the step
  await shownAfter(page, async () => { for (let i = 0; i < 10; i++) await corners.press("PageUp"); });
  await sentence(/lens corrected/);
  expect([page.url(), await corners.evaluate((e) => e === document.activeElement)]).toEqual([stack, true]);
  // a run of key presses is kept when it pauses
  await page.locator("button:enabled", { hasText: "Undo" }).waitFor();
  await page.reload();
  await merged(page);
  await sentence(/lens corrected/);
  expect(Math.max(...(await mean(page, part)))).toBeGreaterThan(before + 3);
  await page.keyboard.press("Control+z");
  await sentence("White balance as shot");
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, { timeout: 60000 });
});

test("a part in another light gets a white of its own, over a reload; it is switched off, picked for, and undone", async () => {
  const { page } = r, box = (await page.locator("canvas").first().boundingBox())!, inside = { x: 0.68, y: 0.42, w: 0.06, h: 0.06 }, outside = { x: 0.15, y: 0.7, w: 0.06, h: 0.06 };
  const warmth = async (part: typeof inside): Promise<number> => { const [red, , blue] = await mean(page, part); return red! / blue!; }, before = [await warmth(inside), await warmth(outside)];
  if (!(await page.getByRole("button", { name: "Light: Outline" }).isVisible())) await page.getByRole("button", { name: /Prepare/ }).first().click();
  await page.getByRole("button", { name: "Light: Outline" }).click();
  const corners = ([[0.6, 0.35], [0.8, 0.35], [0.8, 0.6], [0.6, 0.6], [0.6, 0.36]] as const).map(([x, y]) => [box.x + x * box.width, box.y + y * box.height] as const);
  await page.mouse.move(...corners[0]!);
  await page.mouse.down();
  for (const c of corners.slice(1)) await page.mouse.move(...c, { steps: 6 });
  await page.mouse.up();
  await sentence(/1 part in another light/);
  const white = page.getByRole("slider", { name: "White of light 1" });
  await shownAfter(page, async () => { await white.focus(); for (let i = 0; i < 6; i++) await page.keyboard.press("PageDown"); });
  // a run of key presses is kept when it pauses
  await page.waitForTimeout(800);
  await page.reload();
  await merged(page);
  await sentence(/1 part in another light/);
  expect(await warmth(inside)).toBeLessThan(before[0]! * 0.85);
  expect(Math.abs((await warmth(outside)) / before[1]! - 1)).toBeLessThan(0.03);
  await page.getByRole("button", { name: /Prepare/ }).first().click();
  await shownAfter(page, () => page.getByRole("checkbox", { name: "Light 1 is on" }).click());
  await sentence("White balance as shot");
  expect(Math.abs((await warmth(inside)) / before[0]! - 1)).toBeLessThan(0.03);
  await page.keyboard.press("Control+z");
  await sentence(/1 part in another light/);
  await page.getByRole("button", { name: "Pick a neutral for light 1" }).click();
  await shownAfter(page, () => page.mouse.click(box.x + box.width * 0.7, box.y + box.height * 0.45));
  // what was picked has become grey
  await page.waitForFunction(() => document.querySelector("button[aria-label='Pick a neutral for light 1']")?.getAttribute("aria-pressed") === "false");
  expect(Math.abs((await warmth({ x: 0.695, y: 0.445, w: 0.01, h: 0.01 })) - 1)).toBeLessThan(0.12);
  await page.getByRole("button", { name: "Delete light 1" }).click();
  await sentence("White balance as shot");
});

test("a spot of dust is marked on the picture and taken back", async () => {
  const { page } = r, box = (await page.locator("canvas").first().boundingBox())!;
  await page.getByRole("button", { name: "Mark dust" }).click();
  await page.mouse.click(box.x + box.width * 0.6, box.y + box.height * 0.4);
  await sentence(/1 dust spot/);
  await page.getByRole("button", { name: "Take back" }).click();
  await sentence("White balance as shot");
  await page.keyboard.press("Escape");
  await page.keyboard.press("#");
  expect(await page.getByRole("button", { name: "Grid" }).getAttribute("aria-pressed")).toBe("true");
  expect(r.errors).toEqual([]);
});
