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

/** The library, hand-held: walls, windows and shelves that say what is vertical. */
const LIBRARY = 1;

let r: Running;
beforeAll(async () => {
  r = await start();
  await openDemoStack(r, LIBRARY);
  await openStep(r.page, "edges");
});
afterAll(async () => {
  await r?.close();
});

const guides = () => r.page.getByRole("list", { name: "Guides" }).getByRole("listitem");
const undo = (): Promise<void> => shownAfter(r.page, () => r.page.keyboard.press("Control+z"));
/** Width and height of what is kept, px. */
const keptSize = async (): Promise<number[]> =>
  ((await r.page.getByLabel("Size", { exact: true }).inputValue()).match(/\d+/g) ?? []).map(Number);

test("edges set the picture upright, it is cropped to what is full, and that is undone", async () => {
  const { page } = r;
  const before = await fingerprint(page);
  const whole = await keptSize();
  await shownAfter(page, () => choose(page, "Upright", "Auto"));
  await page.getByText(/By \d+ edges it was tilted/).waitFor();
  await settled(page);
  expect(await fingerprint(page)).not.toBe(before);
  const cropped = await keptSize();
  expect(cropped[0]! * cropped[1]!).toBeLessThan(whole[0]! * whole[1]!);
  await saved(page);
  await page.reload();
  await openStep(page, "edges");
  await settled(page);
  await page.getByText(/By \d+ edges it was tilted/).waitFor();
  expect(await keptSize()).toEqual(cropped);
  await undo();
  await settled(page);
  await eventually(async () => expect(await keptSize()).toEqual(whole));
});

test("an angle turns the picture on screen at once, and then for good", async () => {
  const { page } = r;
  const slider = page.getByRole("slider", { name: "Roll" });
  const copy = page.locator("canvas[aria-hidden][style*=matrix3d]");
  const before = await fingerprint(page);
  await slider.focus();
  await page.keyboard.press("PageUp");
  await copy.waitFor();
  await copy.waitFor({ state: "detached" });
  await settled(page);
  expect(await fingerprint(page)).not.toBe(before);
  await undo();
  await settled(page);
  await eventually(async () => expect(await fingerprint(page)).toBe(before));
});

test("a level line, and four corners, are kept as lines that can be deleted", async () => {
  const { page } = r;
  await page.keyboard.press("l");
  await shownAfter(page, () =>
    dragOver(page, [
      [0.1, 0.62],
      [0.4, 0.6],
    ]),
  );
  await eventually(async () => expect(await guides().count()).toBe(1));
  await page.getByText("Upright by 1 line").waitFor();
  await shownAfter(page, () => page.getByRole("button", { name: "Delete guide 1" }).click());
  await eventually(async () => expect(await guides().count()).toBe(0));
  await settled(page);

  await page.keyboard.press("k");
  const corners = [
    [0.05, 0.27],
    [0.21, 0.3],
    [0.21, 0.57],
    [0.05, 0.6],
  ] as const;
  for (const [x, y] of corners.slice(0, 3)) await page.mouse.click(...(await placeOn(page, x, y)));
  // a corner too many is taken back
  await page.keyboard.press("Backspace");
  for (const [x, y] of corners.slice(2)) await page.mouse.click(...(await placeOn(page, x, y)));
  await eventually(async () => expect(await guides().count()).toBe(4));
  await settled(page);
  await undo();
  await eventually(async () => expect(await guides().count()).toBe(0));
  await settled(page);
});

test("dragging rolls the picture; Escape puts the tool away", async () => {
  const { page } = r;
  await page.keyboard.press("Shift+O");
  await shownAfter(page, () =>
    dragOver(page, [
      [0.9, 0.5],
      [0.9, 0.55],
    ]),
  );
  await settled(page);
  const slider = page.getByRole("slider", { name: "Roll" });
  await eventually(async () =>
    expect(Number(await slider.getAttribute("aria-valuenow"))).toBeGreaterThan(1),
  );
  await page.keyboard.press("Escape");
  await eventually(async () =>
    expect(
      await page.getByRole("button", { name: "Roll by drag" }).getAttribute("aria-pressed"),
    ).toBe("false"),
  );
});
