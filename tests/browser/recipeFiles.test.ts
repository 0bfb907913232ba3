import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { defaultRecipe } from "../../pipeline/recipe/recipe";
import { openDemoStack, openStep, saved, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  await openDemoStack(r, 3);
});
afterAll(async () => {
  await r?.close();
});

const takes = () => r.page.getByRole("region", { name: "Takes" });
const open = () => takes().locator("button[aria-pressed=true]");
const strength = () => r.page.getByRole("slider", { name: "Strength", exact: true });

test("a recipe is saved as a file, opened as a take, and refused where it does not belong", async () => {
  const { page, dir } = r;
  await openStep(page, "tone");
  await strength().press("End");
  await saved(page);
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: /^More for/ }).click();
  await page.getByRole("menuitem", { name: "Save its recipe" }).click();
  const download = await waiting;
  expect(download.suggestedFilename()).toMatch(/\.rhizome\.json$/);
  const file = join(dir, "evening.rhizome.json");
  await download.saveAs(file);
  await page.getByRole("button", { name: "Undo" }).click();
  await page.waitForFunction(
    () =>
      document
        .querySelector("[role=slider][aria-label=Strength]")
        ?.getAttribute("aria-valuenow") !== "1",
  );
  await takes().getByLabel("Take from a file").setInputFiles(file);
  await open().getByText("evening").waitFor();
  expect(await strength().getAttribute("aria-valuenow")).toBe("1");

  // a file of another kind, and one that is none
  const strange = join(dir, "row.json");
  await writeFile(strange, JSON.stringify(defaultRecipe("panorama")));
  await takes().getByLabel("Take from a file").setInputFiles(strange);
  await page.getByRole("alert").getByText("row.json").waitFor();
  await page.getByRole("alert").getByRole("button", { name: "Close" }).click();
  await writeFile(strange, (await readFile(file, "utf8")).slice(0, 100));
  await takes().getByLabel("Take from a file").setInputFiles(strange);
  await page.getByRole("alert").getByText("row.json").waitFor();
  expect(await takes().getByRole("listitem").count()).toBe(2);
  expect(r.errors).toEqual([]);
});
