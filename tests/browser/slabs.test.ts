import { demoComplete, fromMenu, mean, merged, type Running, saved, start } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

test("a run cut into slabs is nested: each slab is a picture of its own, and they become one", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor({ timeout: 180000 });
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  const rows = page.getByRole("grid", { name: "Stacks" }).getByRole("row");
  const row = (name: string) => rows.filter({ hasText: name }).first();
  await row("QM_0439 to 0462").locator("p").first().click();
  for (let i = 0; i < 12; i++) await page.keyboard.press("ArrowRight");
  await page.keyboard.press("x");
  await row("QM_0451 to 0462").waitFor();
  await row("QM_0439 to 0450").locator("p").first().click();
  await row("QM_0451 to 0462")
    .locator("p")
    .first()
    .click({ modifiers: ["Control"] });
  await page.keyboard.press("n");
  const outer = row("QM_0439 to 0462");
  await outer.getByRole("button", { name: /the nested stack/ }).waitFor();
  await outer.locator("p").first().click();
  await fromMenu(page, "Stack", "Focus stack");
  await saved(page);
  await outer.locator("a").first().click();
  await page.waitForURL(/shoots\/[^/]+\/[^/]+$/);
  await merged(page);
  await page.getByText("2 frames", { exact: true }).waitFor();
  await page.getByText("Composed along the depth, fused where depths cross").waitFor();
  expect((await mean(page)).every((v) => v > 10)).toBe(true);
  expect(r.errors).toEqual([]);
});
