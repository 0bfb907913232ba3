import type { Locator } from "playwright-core";
import {
  choose,
  dragOver,
  eventually,
  fingerprint,
  openDemoStack,
  openStep,
  placeOn,
  saved,
  settled,
  shownAfter,
  start,
  type Running,
} from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  await openDemoStack(r, 0);
  await openStep(r.page, "retouch");
});
afterAll(async () => {
  await r?.close();
});

const repairs = (): Locator => r.page.getByRole("list", { name: "Repairs" }).getByRole("listitem");
const undo = (): Promise<void> => shownAfter(r.page, () => r.page.keyboard.press("Control+z"));

const place = (x: number, y: number): Promise<[number, number]> => placeOn(r.page, x, y);
const drag = (points: readonly (readonly [number, number])[]): Promise<void> =>
  dragOver(r.page, points);
const click = async (x: number, y: number): Promise<void> =>
  shownAfter(r.page, async () => r.page.mouse.click(...(await place(x, y))));

test("a click heals a spot, says from where, and is undone", async () => {
  const { page } = r;
  const before = await fingerprint(page);
  await page.keyboard.press("h");
  await click(0.62, 0.48);
  await eventually(async () => (await repairs().count()) === 1);
  expect(await fingerprint(page)).not.toBe(before);
  await page.getByText(/px away, found/).waitFor();
  await undo();
  await settled(page);
  expect(await repairs().count()).toBe(0);
  await eventually(async () => (await fingerprint(page)) === before);
});

test("a clone takes from where its source is dragged; keys move it; it survives a reload", async () => {
  const { page } = r;
  await choose(page, "How", "Clone");
  await click(0.3, 0.6);
  await eventually(async () => (await repairs().count()) === 1);
  await page.getByText(/px away, found/).waitFor();
  // dragging the repair itself moves it
  const found = await fingerprint(page);
  await shownAfter(page, () =>
    drag([
      [0.3, 0.6],
      [0.34, 0.62],
    ]),
  );
  expect(await fingerprint(page)).not.toBe(found);
  expect(await repairs().count()).toBe(1);
  await shownAfter(page, () => page.keyboard.press("Shift+ArrowRight"));
  await page.getByText(/px away, chosen/).waitFor();
  await saved(page);
  const kept = await fingerprint(page);
  await page.reload();
  await openStep(page, "retouch");
  await settled(page);
  expect(await repairs().count()).toBe(1);
  // the tool's marks are not there yet
  await repairs().first().getByRole("button").first().click();
  await page.keyboard.press("h");
  await eventually(async () => (await fingerprint(page)) === kept);
});

test("an outline is filled, switched off, put first and deleted by keys", async () => {
  const { page } = r;
  await choose(page, "How", "Fill");
  await repairs().first().getByRole("button").first().press("Delete");
  await eventually(async () => (await repairs().count()) === 0);
  await page.keyboard.press("Escape");
  await page.keyboard.press("Shift+H");
  for (const x of [0.15, 0.5])
    await shownAfter(page, () =>
      drag([
        [x, 0.7],
        [x + 0.06, 0.7],
        [x + 0.06, 0.78],
        [x, 0.78],
        [x, 0.7],
      ]),
    );
  await eventually(async () => (await repairs().count()) === 2);
  await page.getByTestId("step retouch").getByText("2 places filled").waitFor();
  await shownAfter(page, () => page.getByRole("checkbox", { name: "Fill 2 is on" }).click());
  await page.getByTestId("step retouch").getByText("1 place filled").waitFor();
  await repairs().nth(1).getByRole("button").first().press("Alt+ArrowUp");
  await eventually(
    async () =>
      (await page.getByRole("checkbox", { name: "Fill 1 is on" }).getAttribute("aria-checked")) ===
      "false",
  );
  await repairs().first().getByRole("button").first().press("Delete");
  await eventually(async () => (await repairs().count()) === 1);
  await repairs().first().getByRole("button").first().press("Delete");
  await eventually(async () => (await repairs().count()) === 0);
});
