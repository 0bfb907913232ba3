import { start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

const finder = (scene?: string): Promise<void> =>
  r.page
    .locator(scene ? `canvas[data-ready="${scene}"]` : "canvas[data-ready]")
    .waitFor({ timeout: 180000 });
const pickScene = async (id: string): Promise<void> => {
  await r.page.getByRole("combobox", { name: "Scene" }).click();
  await r.page.locator(`[role=option][data-value="${id}"]`).click();
  await finder(id);
};
const fact = (what: string) =>
  r.page
    .getByLabel("Expected")
    .locator("dt", { hasText: what })
    .locator("xpath=following-sibling::dd[1]")
    .textContent();

test("the stand-in camera says what a bracket will hold, takes it into a shoot, and its stack is found", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page.getByText(/^159 frames in 16 stacks/).waitFor({ timeout: 300000 });
  await page.getByRole("button", { name: "Creator and copyright" }).click();
  await page.getByRole("textbox", { name: "Creator" }).fill("A. Stand-in");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Screens" }).click();
  await page.getByRole("menuitem", { name: "Stand-in camera" }).click();
  await finder();
  const lost = (row: string) =>
    page.getByRole("row", { name: row }).locator("td").last().textContent();
  // one frame loses the sky in the slit, nine do not
  expect(Number(await lost("1 frame"))).toBeGreaterThan(5);
  expect(Number(await lost("9 × 1 EV"))).toBeLessThan(0.5);
  await page.getByRole("button", { name: "3 × 2 EV" }).click();
  await page.getByRole("radio", { name: "Hand-held" }).click();
  expect(page.url()).toMatch(/frames=3&step=2/);
  // set so, the address leads back to it
  await page.reload();
  await finder();
  await page.getByRole("button", { name: "Take 3 frames" }).click();
  await page.getByRole("link", { name: "Open the board" }).click({ timeout: 180000 });
  await page.getByText("3 exposures, −2 to +2 EV").waitFor({ timeout: 180000 });
  // who made it was applied to it
  await page
    .getByRole("grid", { name: "Stacks" })
    .getByRole("row")
    .first()
    .locator("a")
    .first()
    .click();
  await page.locator("ol[aria-label=Recipe] button", { hasText: "Deliver" }).first().click();
  expect(await page.getByRole("textbox", { name: "Creator" }).inputValue()).toBe("A. Stand-in");
});

test("a bracketed sweep becomes a nested stack, a stopped one keeps what was taken, and a coarse focus run is warned of", async () => {
  const { page } = r;
  await page.goto(`${r.base}/camera`);
  await finder();
  await pickScene("ridge");
  const single = Number(await fact("Frames"));
  await page.getByRole("radio", { name: "Bracket", exact: true }).click();
  await page.getByRole("button", { name: `Take ${single * 3} frames` }).waitFor();
  expect(Number(await fact("Frames"))).toBe(single * 3);
  expect(await fact("Rows × places")).toBe(`1 × ${single}`);
  await page.getByRole("button", { name: `Take ${single * 3} frames` }).click();
  await page.getByRole("link", { name: "Open the board" }).click({ timeout: 180000 });
  await page
    .getByRole("button", { name: "Open the nested stack" })
    .first()
    .waitFor({ timeout: 180000 });
  await page.goto(`${r.base}/camera?scene=clockdrive`);
  await finder();
  await page.getByRole("slider", { name: "Step" }).focus();
  await page.keyboard.press("End");
  await page.getByText("Something stays soft").waitFor();
  await page.keyboard.press("Home");
  await page.getByRole("button", { name: "Take 24 frames" }).click();
  await page.getByText("Taking frames, 4 of 24").waitFor({ timeout: 180000 });
  await page.getByRole("button", { name: "Stop" }).click();
  await page.getByText(/^[3-9] frames taken/).waitFor({ timeout: 180000 });
  await page.getByRole("link", { name: "Open the board" }).click();
  await page.getByText(/^[3-9] frames in/).waitFor();
  expect(r.errors).toEqual([]);
});
