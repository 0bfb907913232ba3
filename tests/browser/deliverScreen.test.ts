import { readFile } from "node:fs/promises";
import type { Download } from "playwright-core";
import { strFromU8, unzipSync } from "fflate";
import { demoComplete, eventually, fromMenu, saved, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  const { page, base } = r;
  await page.goto(`${base}/shoots`);
  await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor({ timeout: 180000 });
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
});
afterAll(async () => {
  await r?.close();
});

const files = () => r.page.getByRole("grid", { name: "Files" });
const rowOf = (name: string) => files().getByRole("row").filter({ hasText: name });
const column = (name: string) => files().getByRole("columnheader", { name });
const button = (name: string | RegExp) => r.page.getByRole("button", { name });
const tray = () => r.page.getByRole("region", { name: "Tray" });

/** The files of a zip that was downloaded, by name. */
async function filesIn(download: Download): Promise<Record<string, Uint8Array>> {
  return unzipSync(await readFile(await download.path()));
}

/** Leaves only some stacks to go out. */
async function onlyThese(names: readonly string[]): Promise<void> {
  const boxes = files().getByRole("checkbox", { name: /goes out$/ });
  for (const box of await boxes.all()) {
    const name = (await box.getAttribute("aria-label")) ?? "";
    const isWanted = names.some((wanted) => name.startsWith(wanted));
    if ((await box.isChecked()) !== isWanted) await box.click();
  }
}

const ROOMS = ["QM_0412 to 0416", "QM_0429 to 0431"];

test("the board leads here with what is selected, or with all", async () => {
  const { page } = r;
  const grid = page.getByRole("grid", { name: "Stacks" });
  await grid
    .getByRole("row")
    .nth(3)
    .click({ position: { x: 20, y: 10 } });
  await page.keyboard.press("Shift+D");
  await files().waitFor();
  expect(await files().getByRole("row").count()).toBe(2);
  await rowOf("QM_0429 to 0431").waitFor();
  await page.goBack();
  await fromMenu(page, "Board", "Deliver all");
  await rowOf("QM_0412 to 0416").waitFor();
  await page.getByText("11 of 11 stacks").waitFor();
});

test("deliveries are columns: added to all, left out of one, set for all, undone", async () => {
  const { page } = r;
  await button("Deliver 11 files").waitFor();
  await fromMenu(page, "Add", "Web");
  await column("Web").waitFor();
  await button("Deliver 22 files").waitFor();
  await page.getByRole("checkbox", { name: "Web of QM_0412 to 0416" }).click();
  await button("Deliver 21 files").waitFor();
  await rowOf("QM_0412 to 0416").getByText("not wanted").waitFor();
  await page
    .getByRole("list", { name: "Deliveries" })
    .getByRole("button", { name: /^Web/ })
    .click();
  await page.getByLabel("Long edge", { exact: true }).fill("600");
  await page.keyboard.press("Enter");
  await rowOf("QM_0429 to 0431").getByText("600 × 400").waitFor();
  await page.keyboard.press("Control+z");
  await rowOf("QM_0429 to 0431").getByText("2048 × 1365").waitFor();
});

test("files are gone through and switched by keys", async () => {
  const { page } = r;
  await rowOf("QM_0412 to 0416").getByText("2160 × 1440").click();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press(" ");
  await button("Deliver 22 files").waitFor();
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press(" ");
  await button("Deliver 20 files").waitFor();
  await page.keyboard.press(" ");
  await button("Deliver 22 files").waitFor();
});

test("on paper the sheet's size holds, and too few pixels for it are said", async () => {
  const { page } = r;
  await fromMenu(page, "Add", "Print");
  await column("Print").waitFor();
  await page
    .getByRole("list", { name: "Deliveries" })
    .getByRole("button", { name: /^Print/ })
    .click();
  await page.getByRole("combobox", { name: "Paper" }).click();
  await page.getByRole("option", { name: "60 × 90 cm" }).click();
  await page.getByText(/Too soft for this paper: it has 60 of 150 ppi/).waitFor();
  await page.keyboard.press("Control+z");
  await page.keyboard.press("Control+z");
  await column("Print").waitFor({ state: "detached" });
});

test("a run comes as one zip with all its files; a reload in the middle goes on with it", async () => {
  const { page } = r;
  await onlyThese(ROOMS);
  await page
    .getByRole("list", { name: "Deliveries" })
    .getByRole("button", { name: /^Web/ })
    .click();
  await page.getByLabel("Name", { exact: true }).fill("for the web/{name}-web");
  await page.keyboard.press("Enter");
  await saved(page);
  const download = page.waitForEvent("download", { timeout: 300000 });
  await button("Deliver 4 files").click();
  await tray().getByText("2 of 4 files done").waitFor({ timeout: 180000 });
  await page.reload();
  await tray()
    .getByText(/files done/)
    .waitFor();
  const zip = await filesIn(await download);
  expect(Object.keys(zip).sort()).toEqual(
    ROOMS.flatMap((name) => [
      `for the web/${name}-web.jpg`,
      `${name}.jpg`,
      `${name}.rhizome.json`,
    ]).sort(),
  );
  for (const [name, bytes] of Object.entries(zip))
    if (name.endsWith(".jpg")) expect([bytes[0], bytes[1]]).toEqual([0xff, 0xd8]);
    else expect(JSON.parse(strFromU8(bytes))).toMatchObject({ kind: "bracket" });
  await tray().getByText(/done/).waitFor();
  expect(r.errors).toEqual([]);
});

/** Takes the file of a stack's first frame out of the storage, or puts it back. */
const loseFrame = (name: string): Promise<void> =>
  r.page.evaluate(async (frameName) => {
    const opened = await new Promise<IDBDatabase>((ok, failed) => {
      const request = indexedDB.open("rhizome");
      request.onsuccess = () => ok(request.result);
      request.onerror = () => failed(request.error ?? new Error("closed"));
    });
    const tx = opened.transaction(["frames", "originals"], "readwrite");
    const all = await new Promise<{ hash: string; info: { name: string } }[]>((ok) => {
      const request = tx.objectStore("frames").getAll();
      request.onsuccess = () => ok(request.result);
    });
    tx.objectStore("originals").delete(all.find(({ info }) => info.name === frameName)!.hash);
    await new Promise((ok) => {
      tx.oncomplete = ok;
    });
    opened.close();
  }, name);

test("one that fails does not stop the rest, is named in the list, and stays over a reload", async () => {
  const { page } = r;
  await loseFrame("QM_0412.jpg");
  await onlyThese(ROOMS);
  const download = page.waitForEvent("download", { timeout: 300000 });
  await page.getByTestId("deliver").click();
  const zip = await filesIn(await download);
  expect(Object.keys(zip)).toContain("QM_0429 to 0431.jpg");
  expect(Object.keys(zip)).not.toContain("QM_0412 to 0416.jpg");
  await button("Try 1 failed one again").waitFor();
  const text = page.waitForEvent("download");
  await button("Save the list").click();
  const list = await readFile(await (await text).path(), "utf8");
  expect(list).toMatch(/^failed\tDeliver QM_0412 to 0416.*QM_0412\.jpg/m);
  expect(list).toMatch(/^done\tDeliver QM_0429 to 0431/m);
  await page.reload();
  await tray().waitFor();
  await button("Try 1 failed one again").waitFor();
  await button(/^List$/).click();
  await tray().getByRole("button", { name: "Clear" }).first().click();
  await eventually(async () => expect(await tray().count()).toBe(0));
  await page.reload();
  await files().waitFor();
  expect(await tray().count()).toBe(0);
});

test("a contact sheet of the rows that are shown comes as a PDF", async () => {
  const { page, base } = r;
  await page.goto(`${base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  await fromMenu(page, "Board", "Contact sheet…");
  const download = page.waitForEvent("download", { timeout: 60000 });
  await button("Make it of 11 stacks").click();
  const sheet = await download;
  expect(sheet.suggestedFilename()).toBe("Quillmoor Observatory contact sheet.pdf");
  const bytes = await readFile(await sheet.path());
  expect(bytes.subarray(0, 5).toString()).toBe("%PDF-");
  expect(bytes.length).toBeGreaterThan(100000);
  expect(r.errors).toEqual([]);
});
