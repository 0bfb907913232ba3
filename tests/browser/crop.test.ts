import { readFile } from "node:fs/promises";
import Vips from "wasm-vips";
import { choose, eventually, openDemoStack, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

const size = async (): Promise<[number, number]> => {
  const m = /(\d+) × (\d+)/.exec(await r.page.getByLabel("Size", { exact: true }).inputValue())!;
  return [Number(m[1]), Number(m[2])];
};
const frame = async (): Promise<{ x: number; y: number; width: number; height: number }> =>
  (await r.page
    .getByRole("group", { name: "What is kept" })
    .locator("rect")
    .first()
    .boundingBox())!;

test("a ratio takes the largest part that has it; corners are dragged within it; undo brings each back", async () => {
  await openDemoStack(r, 4);
  const { page } = r;
  await page.keyboard.press("x");
  const free = await size();
  await choose(page, "Ratio", "2:1");
  await page.getByText(/largest full rectangle, 2:1, \d+ × \d+ px/).waitFor();
  const [w, h] = await size();
  expect([w < free[0], h >= free[1], w * h <= free[0] * free[1], Math.abs(w - 2 * h) <= 2]).toEqual(
    [true, true, true, true],
  );
  const f = await frame();
  await page.mouse.move(f.x + f.width, f.y + f.height);
  await page.mouse.down();
  await page.mouse.move(f.x + f.width - 100, f.y + f.height - 20, { steps: 4 });
  await page.mouse.up();
  await page.getByText(/Cropped, 2:1, manual, \d+ × \d+ px/).waitFor();
  const g = await frame();
  const dragged = await size();
  expect([
    Math.abs(g.width - (f.width - 100)) < 2,
    Math.abs(g.x - f.x) < 1.5,
    Math.abs(dragged[0] - 2 * dragged[1]) <= 2,
  ]).toEqual([true, true, true]);
  await page.keyboard.press("Control+z");
  await page.getByText(/largest full rectangle, 2:1/).waitFor();
  expect(await size()).toEqual([w, h]);
});

test("it is moved by the pointer and by keys, one run of keys being one change, and turned", async () => {
  const { page } = r;
  const f = await frame();
  await page.mouse.move(f.x + f.width / 2, f.y + f.height / 2);
  await page.mouse.down();
  await page.mouse.move(f.x + f.width / 2 + 30, f.y + f.height / 2, { steps: 3 });
  await page.mouse.up();
  await page.getByText(/manual/).waitFor();
  const moved = await frame();
  const before = await size();
  expect(Math.abs(moved.x - f.x - 30)).toBeLessThan(2);
  // held down, as its repeats come
  await page.keyboard.down("Shift");
  for (let i = 0; i < 12; i++) await page.keyboard.down("ArrowLeft");
  await page.keyboard.up("ArrowLeft");
  await page.keyboard.up("Shift");
  await eventually(async () => expect((await frame()).x).toBeLessThan(moved.x - 5));
  expect(await size()).toEqual(before);
  await page.keyboard.press("Control+z");
  await eventually(async () => expect(Math.abs((await frame()).x - moved.x)).toBeLessThan(0.6));
  await page.keyboard.press("Shift+X");
  await page.getByText(/Cropped, 1:2, manual/).waitFor();
  await page.getByRole("button", { name: "Largest" }).click();
  await page.getByText(/largest full rectangle, 1:2/).waitFor();
  await page.getByLabel("Own ratio").fill("1,85");
  await page.keyboard.press("Enter");
  await page.getByText(/largest full rectangle, 1\.85:1/).waitFor();
});

test("lines to compose by lie over what is kept, and Escape puts the frame away", async () => {
  const { page } = r;
  const lines = page.getByRole("group", { name: "What is kept" }).locator("line");
  const thirds = await lines.count();
  await choose(page, "Lines", "None");
  expect([thirds, await lines.count()]).toEqual([8, 0]);
  await choose(page, "Lines", "Golden");
  const f = await frame();
  const at = (await lines.first().boundingBox())!;
  expect(Math.abs((at.x + at.width / 2 - f.x) / f.width - 0.382)).toBeLessThan(0.01);
  await page.getByRole("button", { name: /^\S+ Edges/ }).focus();
  await page.keyboard.press("Escape");
  await page.getByRole("group", { name: "What is kept" }).waitFor({ state: "detached" });
  expect(page.url()).toMatch(/\/shoots\/.+\/.+/);
});

test("what reaches over empty borders is said to be empty, and delivered as it was framed", async () => {
  const { page } = r;
  await page.keyboard.press("x");
  await page.getByLabel("Own ratio").fill("");
  await page.keyboard.press("Enter");
  await page.getByLabel("Size", { exact: true }).fill("99999 x 99999");
  await page.keyboard.press("Enter");
  await page.getByText(/manual, \d+ × \d+ px; \d+\.\d % of it is empty/).waitFor();
  await page.getByLabel("Size", { exact: true }).fill("1200 x 800");
  await page.keyboard.press("Enter");
  await page.getByText(/manual, 1200 × 800 px$/).waitFor();
  await page.getByRole("button", { name: /Deliver (JPEG|16-bit|8-bit)/ }).click();
  await page.getByLabel("Resolution", { exact: true }).fill("200");
  await page.keyboard.press("Enter");
  const said = page.getByLabel("The file");
  await said.getByText("15.2 × 10.2").waitFor();
  expect(await said.textContent()).toMatch(
    /1200 × 800px.*1\.0MP.*At 200 ppi15\.2 × 10\.2cm.*6\.0 × 4\.0in.*Takes about\d+s.*Memory, at most\d\.\dGiB/,
  );
  const file = page.waitForEvent("download", { timeout: 300000 });
  await page.keyboard.press("d");
  const vips = await Vips({ dynamicLibraries: [] });
  const im = vips.Image.newFromBuffer(await readFile((await (await file).path())!));
  expect([im.width, im.height, Math.round(im.xres * 25.4)]).toEqual([1200, 800, 200]);
  expect(im.extractBand(1).lessEq(2).avg() / 255).toBeLessThan(0.001);
  expect(r.errors).toEqual([]);
});
