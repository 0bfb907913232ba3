import { demoComplete, eventually, merged, saved, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

/** Goes from control to control until one is reached. */
async function tabTo(name: RegExp): Promise<void> {
  for (let n = 0; n < 60; n++) {
    await r.page.keyboard.press("Tab");
    const at = await r.page.evaluate(() => {
      const focused = document.activeElement;
      return focused?.getAttribute("aria-label") ?? focused?.textContent ?? "";
    });
    if (name.test(at)) return;
  }
  throw new Error(`no way by Tab to ${name}`);
}

async function find(words: string): Promise<void> {
  await r.page.keyboard.press("Control+k");
  await r.page.getByPlaceholder("What do you want to do?").waitFor();
  await r.page.keyboard.type(words);
  await r.page.keyboard.press("Enter");
  await r.page.getByRole("dialog").waitFor({ state: "detached" });
}

test("a whole job by keyboard alone: open, rate, merge, set, look, deliver, back up", async () => {
  const { page, base } = r;
  await page.goto(`${base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).waitFor();
  await tabTo(/^Quillmoor/);
  await page.keyboard.press("Enter");
  await demoComplete(page);

  for (let n = 0; n < 3; n++) await page.keyboard.press("ArrowDown");
  await page.keyboard.press("5");
  await page.getByLabel("Rating 5 of 5").waitFor();
  await saved(page);
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/shoots\/[^/]+\/[^/]+$/);
  await merged(page);

  await find("tone exposure");
  const exposure = page.getByRole("slider", { name: "Exposure" }).first();
  await eventually(async () =>
    expect(await exposure.evaluate((e) => e === document.activeElement)).toBe(true),
  );
  const before = await exposure.getAttribute("aria-valuenow");
  for (let n = 0; n < 5; n++) await page.keyboard.press("ArrowRight");
  await eventually(async () =>
    expect(await exposure.getAttribute("aria-valuenow")).not.toBe(before),
  );
  await saved(page);

  await find("which frame gave");
  await eventually(async () =>
    expect(await page.getByRole("button", { name: /Sources/ }).getAttribute("aria-pressed")).toBe(
      "true",
    ),
  );

  const download = page.waitForEvent("download", { timeout: 180000 });
  await find("deliver");
  expect((await download).suggestedFilename()).toMatch(/\.jpg$/);

  await find("go to storage");
  await page.getByRole("checkbox", { name: "All shoots" }).waitFor();
  await tabTo(/^All shoots$/);
  await page.keyboard.press("Space");
  await page.getByText("1 shoot chosen").waitFor();
});
