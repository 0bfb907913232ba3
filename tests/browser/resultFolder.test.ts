import { openDemoStack, openStep, settled, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  // a folder of the browser's own file system stands in for one of the disk, which no script can choose
  await r.context.addInitScript(() => {
    Object.assign(window, {
      showDirectoryPicker: async () =>
        (await navigator.storage.getDirectory()).getDirectoryHandle("results", { create: true }),
    });
  });
  await openDemoStack(r, 3);
  await openStep(r.page, "deliver");
});
afterAll(async () => {
  await r?.close();
});

/** Names in the folder with their first two bytes. */
const inFolder = (): Promise<Record<string, number[]>> =>
  r.page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle("results");
    const found: Record<string, number[]> = {};
    for await (const [name, handle] of folder as unknown as AsyncIterable<
      [string, FileSystemFileHandle]
    >) {
      const file = await handle.getFile();
      found[name] = [...new Uint8Array(await file.slice(0, 2).arrayBuffer())];
    }
    return found;
  });
const goesTo = () => r.page.getByRole("group", { name: "Where results go" });
const cell = (name: string) => goesTo().getByRole("radio", { name });
const deliver = async (): Promise<void> => {
  await r.page.getByTestId("deliver").first().click();
  await r.page.getByText("Saved", { exact: true }).first().waitFor({ timeout: 180000 });
  await r.page.getByText("Saved", { exact: true }).first().waitFor({ state: "detached" });
};
const JPEG = [0xff, 0xd8];

test("results go into a chosen folder, beside what is there, over a reload; else they are downloads", async () => {
  const { page } = r;
  expect(await cell("Downloads").isChecked()).toBe(true);
  await cell("Folder").click();
  await goesTo().getByText("results", { exact: true }).waitFor();
  await deliver();
  expect(await inFolder()).toMatchObject({ "QM_0429 to 0431.jpg": JPEG });
  await page.reload();
  await openStep(page, "deliver");
  await settled(page);
  await goesTo().getByText("results", { exact: true }).waitFor();
  const before = await inFolder();
  await deliver();
  const after = await inFolder();
  expect(Object.keys(after).sort()).toEqual(
    [...Object.keys(before), "QM_0429 to 0431-2.jpg", "QM_0429 to 0431-2.rhizome.json"].sort(),
  );
  await cell("Downloads").click();
  const download = page.waitForEvent("download");
  await page.getByTestId("deliver").first().click();
  expect((await download).suggestedFilename()).toBe("QM_0429 to 0431.jpg");
  expect(Object.keys(await inFolder())).toEqual(Object.keys(after));
  expect(r.errors).toEqual([]);
});

test("folders in the name are made within the chosen one", async () => {
  const { page } = r;
  await cell("Folder").click();
  await goesTo().getByText("results", { exact: true }).waitFor();
  await page.getByLabel("Name", { exact: true }).fill("{kind}/for {shoot}/{name}");
  await page.keyboard.press("Enter");
  await page.getByText("bracket/for Quillmoor Observatory/QM_0429 to 0431.jpg").waitFor();
  await settled(page);
  await deliver();
  const written = await page.evaluate(async () => {
    let folder = await navigator.storage.getDirectory();
    for (const name of ["results", "bracket", "for Quillmoor Observatory"])
      folder = await folder.getDirectoryHandle(name);
    return (await (await folder.getFileHandle("QM_0429 to 0431.jpg")).getFile()).size;
  });
  expect(written).toBeGreaterThan(10000);
  await page.getByLabel("Name", { exact: true }).fill("{name}");
  await page.keyboard.press("Enter");
  await settled(page);
});

test("a folder that is gone is named, and what was made is not lost: it can go elsewhere", async () => {
  const { page } = r;
  await cell("Folder").click();
  await goesTo().getByText("results", { exact: true }).waitFor();
  await page.evaluate(async () => {
    await (await navigator.storage.getDirectory()).removeEntry("results", { recursive: true });
  });
  await page.getByTestId("deliver").first().click();
  await page.getByText("Deliver again").first().waitFor({ timeout: 180000 });
  await page.getByRole("button", { name: "Tray" }).click();
  await page.getByText(/What to do: .*choose another (one|folder)/).waitFor();
  await page.keyboard.press("Escape");
  await cell("Downloads").click();
  const download = page.waitForEvent("download");
  await page.getByTestId("deliver").first().click();
  await download;
});
