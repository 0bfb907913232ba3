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

test("a spot of dust is marked on the picture and taken back", async () => {
  const { page } = r, box = (await page.locator("canvas").first().boundingBox())!;
  await page.getByRole("button", { name: /Prepare/ }).first().click();
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
