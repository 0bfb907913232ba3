import { demoComplete, eventually, saved, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  await r.page.goto(`${r.base}/shoots`);
  await r.page.getByRole("link", { name: /Quillmoor/ }).waitFor({ timeout: 180000 });
});
afterAll(async () => {
  await r?.close();
});

async function choose(action: string): Promise<void> {
  await r.page.getByRole("button", { name: /^Actions for/ }).click();
  await r.page.getByRole("menuitem", { name: action }).click();
}

test("a shoot is renamed, noted and given a cover; renaming is undone on its board", async () => {
  const { page } = r;
  await choose("Rename");
  await page.getByLabel("Name of the shoot").fill("Hilltop house");
  await page.keyboard.press("Enter");
  await page.getByRole("link", { name: "Hilltop house" }).waitFor();
  await choose("Note");
  await page.getByLabel("Note on the shoot").fill("Deliver on Friday");
  await page.keyboard.press("Enter");
  await page.getByText("Deliver on Friday").waitFor();
  await choose("Choose the cover…");
  await page.getByRole("dialog").getByRole("button").nth(2).click();
  await page.reload();
  await page.getByText("Deliver on Friday").waitFor();
  await eventually(async () => expect(await page.locator("main li img").count()).toBe(1));
  await page.getByRole("link", { name: "Hilltop house" }).click();
  await demoComplete(page);
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press("Control+z");
    await saved(page);
  }
  await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor();
  await page.goto(`${r.base}/shoots`);
});

test("stacks are found by words, kind and day, and opened from there", async () => {
  const { page } = r;
  const found = page.getByRole("region", { name: "Quillmoor Observatory" }).getByRole("link");
  await page.getByRole("link", { name: /Quillmoor/ }).waitFor();
  await page.keyboard.press("/");
  await page.keyboard.type("qm_0433");
  await page.getByText("1 stack in 1 shoot").waitFor();
  await page.keyboard.press("Escape");
  await page.getByRole("combobox", { name: "Kind" }).click();
  await page.getByRole("option", { name: "Focus stacks" }).click();
  await page.getByText(/^\d+ stacks in 1 shoot/).waitFor();
  const focus = (await found.count()) - 1;
  expect(focus).toBeGreaterThan(1);
  await page.getByLabel("Search shoots and stacks").fill("no such words");
  await page.getByText("No stack is as you look for.").waitFor();
  await page.getByRole("button", { name: "Show all" }).click();
  await page.getByLabel("Search shoots and stacks").fill("QM_0412");
  await found.nth(1).click();
  await page.waitForURL(/\/shoots\/[^/]+\/[^/]+$/);
});

test("a shelf without shoots says what will happen, and the demo is a click away", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await choose("Delete…");
  await page.getByRole("alertdialog").getByRole("button", { name: "Delete" }).click();
  await page.getByRole("heading", { name: "No shoots yet" }).waitFor();
  await page.getByRole("img", { name: /Many frames become a few stacks/ }).waitFor();
  await page.getByText(/here it is rhizome\.localhost/).waitFor();
  await page.getByRole("button", { name: "Bring in the demo shoot" }).click();
  // its first stacks can be opened while the rest still comes
  await page.getByRole("link", { name: /Quillmoor/ }).click({ timeout: 180000 });
  await page.getByRole("grid", { name: "Stacks" }).getByRole("row").first().waitFor();
});
