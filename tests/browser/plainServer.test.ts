import { join } from "node:path";
import { FRAMES, merged, startOn, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await startOn(["tests/browser/plainServer.mjs"]);
});
afterAll(async () => {
  await r?.close();
});

test("on a server without headers of its own, frames are read and merged all the same", async () => {
  const { page, base } = r;
  await page.goto(base);
  await page.waitForFunction(() => globalThis.crossOriginIsolated, null, { timeout: 180000 });
  await page
    .getByLabel("Files to bring in")
    .setInputFiles([29, 30, 31].map((n) => join(FRAMES, `QM_04${n}.jpg`)));
  await page.getByText("3 frames in 1 stack").waitFor({ timeout: 180000 });
  // an address that the server does not know
  await page.goto(`${base}/shoots`);
  await page
    .getByText("3 frames in 1 stack")
    .locator("xpath=ancestor::li")
    .getByRole("link")
    .click();
  await page.locator("[role=grid][aria-label=Stacks] [role=row] a").first().click();
  await merged(page);
});
