import { readFileSync } from "node:fs";
import { join } from "node:path";
import { eventually, FRAMES, merged, openRow, start, type Running } from "./harness";

const NAMES = [29, 30, 31].map((n) => `QM_04${n}.jpg`);
let r: Running;
beforeAll(async () => {
  r = await start();
  // a folder of the browser's own file system stands in for one of the disk, which no script can choose
  await r.context.addInitScript(() => {
    Object.assign(window, {
      showDirectoryPicker: async () =>
        (await navigator.storage.getDirectory()).getDirectoryHandle("card", { create: true }),
    });
  });
  const { page, base } = r;
  await page.goto(`${base}/shoots`);
  const files = NAMES.map((name) => [name, readFileSync(join(FRAMES, name)).toString("base64")]);
  await page.evaluate(async (list) => {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle("card", { create: true });
    for (const [name, text] of list) {
      const out = await (await folder.getFileHandle(name!, { create: true })).createWritable();
      await out.write(Uint8Array.from(atob(text!), (letter) => letter.charCodeAt(0)));
      await out.close();
    }
  }, files);
});
afterAll(async () => {
  await r?.close();
});

const originalsKept = (): Promise<number> =>
  r.page.evaluate(async () => {
    const open = indexedDB.open("rhizome");
    const d = await new Promise<IDBDatabase>((ok) => {
      open.onsuccess = () => ok(open.result);
    });
    const counting = d.transaction("originals").objectStore("originals").count();
    const count = await new Promise<number>((ok) => {
      counting.onsuccess = () => ok(counting.result);
    });
    d.close();
    return count;
  });

test("frames that stay in their folder are merged from there, and one that is gone is named", async () => {
  const { page } = r;
  const link = page.getByRole("button", { name: "Link a folder" });
  // the demo has these frames already: without it they are only on the disk
  await page.getByRole("button", { name: /^Actions for/ }).click();
  await page.getByRole("menuitem", { name: "Delete…" }).click();
  await page.getByRole("alertdialog").getByRole("button", { name: "Delete" }).click();
  await page.getByRole("heading", { name: "No shoots yet" }).waitFor();
  await link.click();
  await page.getByText("3 frames in 1 stack").waitFor({ timeout: 180000 });
  expect(await originalsKept()).toBe(0);
  await openRow(page, 0);
  await merged(page);
  await page.reload();
  await merged(page);

  await page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    await (await root.getDirectoryHandle("card")).removeEntry("QM_0430.jpg");
  });
  await page.reload();
  const unread = page.getByRole("list", { name: "Files that cannot be read" });
  await unread.getByText(/QM_0430\.jpg is no longer in the folder card/).waitFor();
  await eventually(async () => expect(await unread.getByRole("listitem").count()).toBe(1));
});
