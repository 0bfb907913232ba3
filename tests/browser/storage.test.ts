import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { unzipSync } from "fflate";
import type { Page } from "playwright-core";
import { demoComplete, eventually, merged, openRow, start, type Running } from "./harness";

const FRAMES_OF_DEMO = 159;
let r: Running;
beforeAll(async () => {
  r = await start();
  // results come as downloads, which a test can look into
  await r.page.addInitScript(() => {
    Reflect.deleteProperty(globalThis, "showSaveFilePicker");
  });
});
afterAll(async () => {
  await r?.close();
});

const row = (page: Page) => page.getByRole("row", { name: /Quillmoor/ });

/** Backs up all shoots. @returns the path of the zip */
async function backUp(page: Page): Promise<string> {
  await page.goto(`${r.base}/storage`);
  await page.getByLabel("All shoots").click();
  const coming = page.waitForEvent("download", { timeout: 180000 });
  await page.getByRole("button", { name: "Back up", exact: true }).click();
  const download = await coming;
  expect(download.suggestedFilename()).toMatch(
    /^Quillmoor Observatory \d{4}-\d\d-\d\d backup\.zip$/,
  );
  const path = join(r.dir, "backup.zip");
  await download.saveAs(path);
  return path;
}

async function deleteAll(page: Page): Promise<void> {
  await page.goto(`${r.base}/storage`);
  await page.getByLabel("All shoots").click();
  await page.getByRole("button", { name: "Delete…" }).click();
  const dialog = page.getByRole("alertdialog");
  await dialog.getByText(/Quillmoor Observatory.*159 frames/).waitFor();
  await dialog.getByRole("button", { name: "Delete" }).click();
  await row(page).waitFor({ state: "detached" });
}

test("a shoot is backed up, deleted and restored, with its names, ratings and merges", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  await page.keyboard.press("4");
  await page.getByLabel("Rating 4 of 5").first().waitFor();
  await openRow(page, 3);
  await merged(page);

  const zip = await backUp(page);
  const files = Object.entries(unzipSync(await readFile(zip)));
  const originals = files.filter(([name]) => /\/originals\/.*\.jpg$/.test(name));
  expect(originals).toHaveLength(FRAMES_OF_DEMO);
  const [, packed] = originals.find(([name]) => name.endsWith("QM_0412.jpg"))!;
  expect((await readFile("demo/frames/QM_0412.jpg")).equals(packed)).toBe(true);

  await deleteAll(page);
  await page.getByLabel("Backup to restore").setInputFiles(zip);
  await page.getByText(/159 frames in 16 stacks/).waitFor();
  await page.getByText("Not here").waitFor();
  await page.getByRole("button", { name: "Restore", exact: true }).click();
  await page.getByText("159 frames and 16 stacks restored.").waitFor({ timeout: 180000 });

  await row(page).getByRole("link").click();
  await demoComplete(page);
  await page.getByLabel("Rating 4 of 5").first().waitFor();
  await openRow(page, 3);
  await merged(page);
});

test("a damaged backup gives back what is whole and names the rest", async () => {
  const { page } = r;
  const zip = await readFile(await backUp(page));
  const cut = join(r.dir, "cut.zip");
  await writeFile(cut, zip.subarray(0, Math.round(zip.length * 0.6)));
  await deleteAll(page);
  await page.getByLabel("Backup to restore").setInputFiles(cut);
  await page
    .getByRole("alert")
    .getByText(/damaged/)
    .waitFor();
  await page.getByRole("button", { name: "Restore", exact: true }).click();
  await page.getByText(/159 frames and 16 stacks restored/).waitFor({ timeout: 180000 });
  await page
    .getByText(/QM_\d+\.jpg is missing or damaged/)
    .first()
    .waitFor();
  // what is missing comes from the whole one
  await page.getByLabel("Backup to restore").setInputFiles(join(r.dir, "backup.zip"));
  await page.getByText(/Here, \d+ frames missing/).waitFor();
  await page.getByRole("button", { name: "Restore", exact: true }).click();
  await page.getByText(/^\d+ frames and 0 stacks restored/).waitFor({ timeout: 180000 });
});

test("what is no backup is refused by its name, and a backup is not brought in as frames", async () => {
  const { page } = r;
  await page.goto(`${r.base}/storage`);
  await page.getByLabel("Backup to restore").setInputFiles("demo/frames/QM_0412.jpg");
  await page
    .getByRole("alert")
    .getByText(/QM_0412\.jpg is not a backup/)
    .waitFor();
  await page.goto(`${r.base}/shoots`);
  await page.getByLabel("Files to bring in").setInputFiles(join(r.dir, "backup.zip"));
  await page.getByText(/backup\.zip is a backup/).waitFor();
});

test("kept merges are counted by shoot, cleared and limited", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  await openRow(page, 3);
  await merged(page);
  await page.goto(`${r.base}/storage`);
  const kept = (): Promise<string> => row(page).getByRole("cell").nth(5).innerText();
  await eventually(async () => {
    await page.reload();
    await row(page).waitFor();
    if ((await kept()) === "0 kB") throw new Error("nothing is kept yet");
  });
  await page.getByLabel("Quillmoor Observatory").click();
  await page.getByRole("button", { name: "Clear kept merges" }).click();
  await eventually(async () => expect(await kept()).toBe("0 kB"));
  await page.getByRole("combobox", { name: "Room for kept merges" }).click();
  await page.getByRole("option", { name: "None" }).click();
  await page.reload();
  await page.getByRole("combobox", { name: "Room for kept merges" }).getByText("None").waitFor();
});
