import { join } from "node:path";
import { writeBracketedSweep } from "../files/bracketedSweep";
import { merged, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

test("a row of brackets is found as a nested stack and becomes one panorama of light", async () => {
  const { page } = r;
  const files = await writeBracketedSweep(join(r.dir, "row"), 4);
  await page.addInitScript(() =>
    new MutationObserver(() => {
      if (document.querySelector("[role=status]")?.textContent?.includes("Merging members"))
        (globalThis as { mergedMembers?: boolean }).mergedMembers = true;
    }).observe(document, { childList: true, characterData: true, subtree: true }),
  );
  await page.goto(`${r.base}/shoots`);
  await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor({ timeout: 300000 });
  await page.getByLabel("Files to bring in").setInputFiles(files);
  await page.getByText(/^12 frames in \d+ stacks?/).waitFor({ timeout: 300000 });
  const rows = page.getByRole("grid", { name: "Stacks" }).getByRole("row");
  await rows.first().waitFor();
  const outer = rows
    .filter({ has: page.getByRole("button", { name: "Open the nested stack" }) })
    .first();
  await outer.locator("a").first().click();
  await merged(page);
  await page.getByText(/4 frames placed/).waitFor();
  // its frames are the brackets' results, named after them, and it is toned like a bracket
  const recipe = page.getByLabel("Recipe");
  expect(await recipe.textContent()).toMatch(/4 frames/);
  expect(await recipe.textContent()).toMatch(/Local, edges kept/);
  expect(await page.getByRole("region", { name: "Maps" }).count()).toBe(1);
  // opened again, the members' merges are there
  const mergedMembers = (): Promise<boolean> =>
    page.evaluate(() => (globalThis as { mergedMembers?: boolean }).mergedMembers ?? false);
  expect(await mergedMembers()).toBe(true);
  await page.reload();
  await merged(page);
  expect(await mergedMembers()).toBe(false);
  expect(r.errors).toEqual([]);
});
