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
  await eventually(async () => expect(await repairs().count()).toBe(1));
  expect(await fingerprint(page)).not.toBe(before);
  await page.getByText(/px away, found/).waitFor();
  await undo();
  await settled(page);
  expect(await repairs().count()).toBe(0);
  await eventually(async () => expect(await fingerprint(page)).toBe(before));
});

test("a clone takes from where its source is dragged; keys move it; it survives a reload", async () => {
  const { page } = r;
  await choose(page, "How", "Clone");
  await click(0.3, 0.6);
  await eventually(async () => expect(await repairs().count()).toBe(1));
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
  const reloaded = async (): Promise<void> => {
    await page.reload();
    await openStep(page, "retouch");
    await settled(page);
    expect(await repairs().count()).toBe(1);
  };
  await reloaded();
  const kept = await fingerprint(page);
  await reloaded();
  await eventually(async () => expect(await fingerprint(page)).toBe(kept));
  // and it is not the picture without the repair
  await shownAfter(page, () => page.getByRole("checkbox", { name: "Clone 1 is on" }).click());
  expect(await fingerprint(page)).not.toBe(kept);
  await shownAfter(page, () => page.getByRole("checkbox", { name: "Clone 1 is on" }).click());
});

test("an outline is filled, switched off, put first and deleted by keys", async () => {
  const { page } = r;
  await choose(page, "How", "Fill");
  await repairs().first().getByRole("button").first().press("Delete");
  await eventually(async () => expect(await repairs().count()).toBe(0));
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
  await eventually(async () => expect(await repairs().count()).toBe(2));
  await page.getByTestId("step retouch").getByText("2 places filled").waitFor();
  await shownAfter(page, () => page.getByRole("checkbox", { name: "Fill 2 is on" }).click());
  await page.getByTestId("step retouch").getByText("1 place filled").waitFor();
  await repairs().nth(1).getByRole("button").first().press("Alt+ArrowUp");
  const first = page.getByRole("checkbox", { name: "Fill 1 is on" });
  await eventually(async () => expect(await first.getAttribute("aria-checked")).toBe("false"));
  await repairs().first().getByRole("button").first().press("Delete");
  await eventually(async () => expect(await repairs().count()).toBe(1));
  await repairs().first().getByRole("button").first().press("Delete");
  await eventually(async () => expect(await repairs().count()).toBe(0));
});
