import { readFile } from "node:fs/promises";
import { strFromU8, unzipSync } from "fflate";
import {
  choose,
  eventually,
  fromMenu,
  openDemoStack,
  openStep,
  saved,
  settled,
  start,
  type Running,
} from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  await openDemoStack(r, 3);
  await openStep(r.page, "deliver");
});
afterAll(async () => {
  await r?.close();
});

const others = () => r.page.getByRole("list", { name: "Other files" }).getByRole("listitem");
/** What the browser was handed when a button was pressed. */
async function handed(button: RegExp): Promise<{ name: string; bytes: Uint8Array }> {
  const download = r.page.waitForEvent("download");
  await r.page.getByRole("button", { name: button }).click();
  const file = await download;
  return { name: file.suggestedFilename(), bytes: await readFile(await file.path()) };
}

test("the file is as small as it is asked to be, and named by its pattern", async () => {
  const { page } = r;
  await choose(page, "File size", "Long edge");
  await page.getByLabel("Long edge", { exact: true }).fill("640");
  await page.keyboard.press("Enter");
  await page.getByText("640 × 427").waitFor();
  await page.getByLabel("Name", { exact: true }).fill("{first}-{count}-{nonsense}");
  await page.keyboard.press("Enter");
  await page.getByText("Nobody knows {nonsense}").waitFor();
  await page.getByLabel("Name", { exact: true }).fill("{first}-{count}");
  await page.keyboard.press("Enter");
  await page.getByText("QM_0429-3.jpg").waitFor();
  const { name, bytes } = await handed(/Render and save$/);
  expect(name).toBe("QM_0429-3.jpg");
  expect([...bytes.subarray(0, 2)]).toEqual([0xff, 0xd8]);
});

test("each newer format is written in the browser, and is what it says", async () => {
  const { page } = r;
  const marks: [string, RegExp, (bytes: Buffer) => boolean][] = [
    ["PDF", /\.pdf$/, (bytes) => bytes.subarray(0, 5).toString() === "%PDF-"],
    ["JPEG XL", /\.jxl$/, (bytes) => bytes.subarray(4, 8).toString() === "JXL "],
    ["AVIF", /\.avif$/, (bytes) => bytes.subarray(4, 12).toString() === "ftypavif"],
  ];
  for (const [format, ending, isOne] of marks) {
    await choose(page, "Format", format);
    await saved(page);
    const { name, bytes } = await handed(/Render and save$/);
    expect(name).toMatch(ending);
    expect(isOne(Buffer.from(bytes))).toBe(true);
    await page.getByTestId("deliver").first().getByText("Deliver", { exact: true }).waitFor();
  }
  await choose(page, "Format", "JPEG");
  await saved(page);
});

test("several files come from one picture, in one zip; they are kept, switched and undone", async () => {
  const { page } = r;
  await fromMenu(page, "Add", "Web");
  await eventually(async () => expect(await others().count()).toBe(1));
  await fromMenu(page, "Add", "As set above");
  await eventually(async () => expect(await others().count()).toBe(2));
  await page.getByRole("checkbox", { name: "File 3 is made" }).click();
  await page.getByRole("button", { name: "Render and save 2 files" }).waitFor();
  await saved(page);
  await page.reload();
  await openStep(page, "deliver");
  await settled(page);
  expect(await others().count()).toBe(2);
  const { name, bytes } = await handed(/Render and save 2 files/);
  expect(name).toMatch(/\.zip$/);
  const files = unzipSync(bytes);
  const pictures = Object.keys(files).filter((file) => file.endsWith(".jpg"));
  expect(pictures.sort()).toEqual(["QM_0429 to 0431-web.jpg", "QM_0429-3.jpg"]);
  for (const file of pictures) expect([...files[file]!.subarray(0, 2)]).toEqual([0xff, 0xd8]);
  // with the recipe that they were made by
  const recipe = JSON.parse(strFromU8(files["QM_0429 to 0431.rhizome.json"]!)) as object;
  expect(recipe).toMatchObject({ kind: "bracket", madeFrom: [{ name: "QM_0429.jpg" }, {}, {}] });
  await page.keyboard.press("Control+z");
  await page.getByRole("button", { name: "Render and save 3 files" }).waitFor();
  await page.keyboard.press("Control+z");
  await eventually(async () => expect(await others().count()).toBe(1));
});
