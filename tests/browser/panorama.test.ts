/* eslint-disable max-lines -- one panorama is merged once, and everything is tried on it */
import { readFile } from "node:fs/promises";
import Vips from "wasm-vips";
import {
  choose,
  eventually,
  mean,
  openDemoStack,
  saved,
  settled,
  shownAfter,
  start,
  type Running,
} from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

test("a sweep is placed, joined and cropped by itself; its frames lie as plates", async () => {
  await openDemoStack(r, 4);
  await r.page
    .getByText(/7 frames placed, cylindrical, level by [^,]*, ±[\d.]+°, ties 0\.\d\d px/)
    .waitFor();
  expect(
    await r.page.getByRole("img", { name: "7 of 7 frames placed" }).locator("polygon").count(),
  ).toBe(7);
  const size = /Cropped to the largest full rectangle, (\d+) × (\d+) px/.exec(
    (await r.page.getByLabel("Recipe").textContent()) ?? "",
  )!;
  expect(Number(size[1])).toBeGreaterThan(5000);
  expect(Number(size[2])).toBeGreaterThan(1800);
});

test("another projection is a change like any other: it is shown, and undone", async () => {
  await r.page.getByRole("button", { name: /^done Panorama/ }).click();
  await shownAfter(r.page, () => choose(r.page, "Projection", "Mercator"));
  await r.page.getByText(/7 frames placed, mercator/).waitFor({ timeout: 180000 });
  await r.page.keyboard.press("Control+z");
  await r.page.getByText(/7 frames placed, cylindrical/).waitFor({ timeout: 180000 });
  await shownAfter(r.page, () => r.page.keyboard.press("s"));
  expect(await r.page.getByRole("region", { name: "Maps" }).getByRole("listitem").count()).toBe(7);
});

test("a lens said to be a fisheye is looked for anew, with a circle to set; undo finds the frames as they were", async () => {
  const { page } = r;
  const lens = page.getByLabel("Lens", { exact: true });
  const circle = page.getByRole("slider", { name: "Image circle" });
  expect(await circle.count()).toBe(0);
  await shownAfter(page, () => choose(page, "Lens", /equidistant/i));
  await circle.waitFor();
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, {
    timeout: 180000,
  });
  await page.keyboard.press("Control+z");
  await page.getByText(/7 frames placed, cylindrical/).waitFor({ timeout: 180000 });
  await circle.waitFor({ state: "detached", timeout: 180000 });
  expect(await lens.textContent()).toMatch(/^By the frames/);
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, {
    timeout: 180000,
  });
});

test("a line drawn along what is level turns the picture; it can be looked at all round; undo sets it back", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  const plates = () =>
    page
      .getByRole("img", { name: "7 of 7 frames placed" })
      .locator("polygon")
      .first()
      .getAttribute("points");
  await shownAfter(page, () => page.keyboard.press("s"));
  const before = await plates();
  await page.keyboard.press("l");
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.7, box.y + box.height * 0.53, { steps: 5 });
  await page.mouse.up();
  await page.getByRole("list", { name: "Guides" }).waitFor();
  await page.waitForFunction(
    (b) =>
      document.querySelector("svg[aria-label$='placed'] polygon")?.getAttribute("points") !== b,
    before,
    { timeout: 180000 },
  );
  await page.getByRole("button", { name: "360° view" }).click();
  await page.getByLabel("The panorama from within").locator("canvas").waitFor();
  await page.keyboard.press("Escape");
  await page.keyboard.press("Control+z");
  await page.getByRole("list", { name: "Guides" }).waitFor({ state: "detached" });
  await page.waitForFunction(
    (b) =>
      document.querySelector("svg[aria-label$='placed'] polygon")?.getAttribute("points") === b,
    before,
    { timeout: 180000 },
  );
  await page.waitForFunction(() => !document.querySelector("[role=status]"), null, {
    timeout: 180000,
  });
});

test("the view is dragged, and rolled by a drag, each a change that is undone", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  const shows = (label: string, value: RegExp) =>
    page.waitForFunction(
      ([l, v]) =>
        new RegExp(v!).test(
          document
            .querySelector(`[role=slider][aria-label="${l}"]`)
            ?.getAttribute("aria-valuenow") ?? "",
        ),
      [label, value.source] as const,
      { timeout: 180000 },
    );
  const drag = async (key: string, from: [number, number], to: [number, number]): Promise<void> => {
    await page.keyboard.press(key);
    await page.mouse.move(box.x + box.width * from[0], box.y + box.height * from[1]);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * to[0], box.y + box.height * to[1], { steps: 4 });
    await page.mouse.up();
    await page.keyboard.press(key);
  };
  const before = await page
    .getByRole("img", { name: "7 of 7 frames placed" })
    .locator("polygon")
    .first()
    .getAttribute("points");
  await drag("o", [0.5, 0.5], [0.6, 0.5]);
  await shows("Yaw", /^[1-9]/);
  await settled(page);
  await drag("Shift+O", [0.7, 0.5], [0.7, 0.52]);
  await shows("Roll", /^[1-9]/);
  await settled(page);
  // and so do the plates on the ladder
  const plates = (await page.getByRole("img", { name: "7 of 7 frames placed" }).boundingBox())!;
  await page.mouse.move(plates.x + plates.width * 0.5, plates.y + plates.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(plates.x + plates.width * 0.5, plates.y + plates.height * 0.6, {
    steps: 4,
  });
  await page.mouse.up();
  await shows("Pitch", /^-[1-9]/);
  await settled(page);
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press("Control+z");
    await settled(page);
  }
  await shows("Yaw", /^0$/);
  await shows("Pitch", /^0$/);
  await shows("Roll", /^0$/);
  // the picture follows its settings
  await page.waitForFunction(
    (b) =>
      document.querySelector("svg[aria-label$='placed'] polygon")?.getAttribute("points") === b,
    before,
    { timeout: 180000 },
  );
  await settled(page);
});

test("the view is drawn as it will be while it is dragged and when another projection is chosen; its borders are handles", async () => {
  const { page } = r;
  const preview = page.getByLabel("The view as it will be");
  const left = async (): Promise<number> =>
    Number(await page.getByRole("slider", { name: "Left" }).getAttribute("aria-valuenow"));
  const covered = await left();
  await preview.waitFor({ state: "detached" });
  await page.keyboard.press("o");
  await page.waitForFunction(() => document.querySelector("[data-shows]"), null, {
    timeout: 60000,
  });
  const rect = (await preview.locator("svg > rect").first().boundingBox())!;
  // put away in the middle of a drag, it has changed nothing
  await page.mouse.move(rect.x + rect.width * 0.5, rect.y + rect.height / 2);
  await page.mouse.down();
  await page.mouse.move(rect.x + rect.width * 0.6, rect.y + rect.height / 2, { steps: 3 });
  const yaw = () => page.getByRole("slider", { name: "Yaw" }).getAttribute("aria-valuenow");
  expect(await yaw()).not.toBe("0");
  await page.keyboard.press("Escape");
  await page.mouse.up();
  await preview.waitFor({ state: "detached" });
  expect([await yaw(), await page.getByRole("button", { name: /^Undo/ }).isDisabled()]).toEqual([
    "0",
    true,
  ]);
  await page.keyboard.press("o");
  await page.waitForFunction(() => document.querySelector("[data-shows]"), null, {
    timeout: 60000,
  });
  await page.mouse.move(rect.x, rect.y + rect.height / 2);
  await page.mouse.down();
  await page.mouse.move(rect.x + rect.width * 0.2, rect.y + rect.height / 2, { steps: 6 });
  // shown at once, kept when it is let go
  await page.waitForFunction(
    (was) =>
      Number(
        document.querySelector("[role=slider][aria-label='Left']")?.getAttribute("aria-valuenow"),
      ) <
      was - 10,
    covered,
    { timeout: 5000 },
  );
  expect(await page.getByRole("button", { name: /^Undo/ }).isDisabled()).toBe(true);
  await page.mouse.up();
  await page.keyboard.press("o");
  await settled(page);
  const cut = await left();
  expect(cut).toBeLessThan(covered - 10);
  await page.getByRole("button", { name: "All that is covered" }).click();
  await page.waitForFunction(
    (was) =>
      Number(
        document.querySelector("[role=slider][aria-label='Left']")?.getAttribute("aria-valuenow"),
      ) > was,
    cut + 5,
    { timeout: 180000 },
  );
  await settled(page);
  await choose(page, "Projection", "Panini");
  // long before it is joined
  await page.waitForFunction(
    () => document.querySelector("[data-shows]") && document.querySelector("[role=status]"),
    null,
    { timeout: 60000 },
  );
  await page.getByText(/7 frames placed, panini/).waitFor({ timeout: 180000 });
  const distance = page.getByRole("slider", { name: "Distance" });
  await distance.focus();
  await page.keyboard.press("Home");
  await page.waitForFunction(() => document.querySelector("[role=status]"), null, {
    timeout: 60000,
  });
  await settled(page);
  for (let i = 0; i < 4; i++) {
    await page.keyboard.press("Control+z");
    await settled(page);
  }
  await page.getByText(/7 frames placed, cylindrical/).waitFor({ timeout: 180000 });
  await eventually(async () => expect(await left()).toBeCloseTo(covered, 0));
});

test("a part is hidden in one frame by a line drawn round it, switched off, and undone", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  const at = (x: number, y: number): [number, number] => [
    box.x + box.width * x,
    box.y + box.height * y,
  ];
  const done = (): Promise<void> => settled(page);
  await page.keyboard.press("g");
  await page.mouse.move(...at(0.47, 0.45));
  await page.mouse.down();
  for (const [x, y] of [
    [0.53, 0.45],
    [0.53, 0.55],
    [0.47, 0.55],
    [0.47, 0.46],
  ] as const)
    await page.mouse.move(...at(x, y), { steps: 4 });
  await page.mouse.up();
  const choice = page.getByRole("region", { name: "Choose a frame for this area" });
  await choice.waitFor();
  expect(await choice.getByRole("listitem").count()).toBeGreaterThan(1);
  await choice.getByRole("button", { name: "Hide in QM_0435.jpg" }).click();
  await page.getByRole("list", { name: "Masks" }).getByText("In QM_0435").waitFor();
  await done();
  await page.getByRole("checkbox", { name: "Mask 1 is on" }).click();
  await done();
  // what is in the same place of every frame is hidden in the whole row at once
  await choose(page, "Copy mask 1 to", "The whole row");
  await page.getByRole("list", { name: "Masks" }).getByRole("listitem").nth(6).waitFor();
  await done();
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press("Control+z");
    await saved(page);
  }
  await page.getByRole("list", { name: "Masks" }).waitFor({ state: "detached" });
  await done();
});

test("empty borders are filled and listed as such, or bent away, and undo crops again", async () => {
  const { page } = r;
  const done = (): Promise<void> => settled(page);
  const corner = () => mean(page, { x: 0.02, y: 0.316, w: 0.02, h: 0.008 });
  await page.getByRole("button", { name: /Edges/ }).first().click();
  await shownAfter(page, () => choose(page, "Borders", "Fill"));
  await page.getByText("Filled after the likes of the picture").waitFor();
  await done();
  await page
    .getByRole("region", { name: "Suspects" })
    .getByText("Filled")
    .first()
    .waitFor({ timeout: 180000 });
  const becomes = (light: boolean): Promise<void> =>
    eventually(async () => expect(Math.max(...(await corner())) > 40).toBe(light));
  await becomes(true);
  // with Keep the same corner is empty
  await choose(page, "Borders", "Keep");
  await becomes(false);
  await done();
  await shownAfter(page, () => choose(page, "Borders", "Bend"));
  await page.getByText(/Bent to a rectangle, \d+ × \d+ px/).waitFor({ timeout: 180000 });
  await done();
  expect(await page.getByRole("region", { name: "Suspects" }).getByText("Filled").count()).toBe(0);
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press("Control+z");
    await saved(page);
  }
  await page.getByText(/Cropped to the largest full rectangle/).waitFor({ timeout: 180000 });
  await done();
});

test("it is delivered at full size, without its empty borders", async () => {
  const [download] = await Promise.all([
    r.page.waitForEvent("download", { timeout: 300000 }),
    r.page.getByRole("button", { name: "Deliver", exact: true }).click(),
  ]);
  const vips = await Vips({ dynamicLibraries: [] });
  const im = vips.Image.newFromBuffer(await readFile((await download.path())!));
  expect(im.width).toBeGreaterThan(5000);
  // no corner is black
  for (const [x, y] of [
    [2, 2],
    [im.width - 3, 2],
    [2, im.height - 3],
    [im.width - 3, im.height - 3],
  ] as const)
    expect(Math.max(...(im.getpoint(x, y) as number[]))).toBeGreaterThan(20);
  im.delete();
  expect(r.errors).toEqual([]);
  expect(r.foreign).toEqual([]);
});

test("ties are listed worst first, removed, set manually where one points, and all of it is undone", async () => {
  const { page } = r;
  await page.keyboard.press("t");
  const dialog = page.getByRole("dialog", { name: "Ties" });
  const list = dialog.getByRole("listbox", { name: "Ties, worst first" });
  const count = async (): Promise<number> =>
    Number(/(\d+) ties hold 7 of 7 frames/.exec((await dialog.textContent()) ?? "")?.[1]);
  await list.getByRole("option").first().waitFor();
  const errors = (await list.getByRole("option").allTextContents()).map((t) =>
    Number(/(\d\.\d\d) px/.exec(t)![1]),
  );
  const before = await count();
  expect(errors.length).toBeGreaterThan(10);
  expect([...errors].sort((a, b) => b - a)).toEqual(errors);
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Delete");
  await dialog.getByText(/1 removed/).waitFor({ timeout: 180000 });
  await dialog.getByText(`${before - 1} ties hold 7 of 7 frames`).waitFor({ timeout: 180000 });
  await page.keyboard.press("Control+z");
  await dialog.getByText(/1 removed/).waitFor({ state: "detached", timeout: 180000 });
  await dialog.getByText(`${before} ties hold 7 of 7 frames`).waitFor({ timeout: 180000 });
  // a tie that is known, set once more by pointing some px beside it
  await choose(dialog, "Frame on the left", /^QM_0434/);
  await choose(dialog, "Frame on the right", /^QM_0435/);
  const [left, right] = [
    dialog.getByLabel("Frame QM_0434.jpg"),
    dialog.getByLabel("Frame QM_0435.jpg"),
  ];
  const box = async (l: typeof left) => (await l.boundingBox())!;
  const [x, y] = (await left.locator("svg path").nth(20).getAttribute("d"))!
    .match(/M([\d.]+) ([\d.]+)h/)!
    .slice(1)
    .map(Number) as [number, number];
  const [u, v] = (await right.locator("svg path").nth(20).getAttribute("d"))!
    .match(/M([\d.]+) ([\d.]+)h/)!
    .slice(1)
    .map(Number) as [number, number];
  await dialog.locator("canvas").nth(1).and(dialog.locator("[data-shown]")).waitFor();
  await list.focus();
  await page.keyboard.press("n");
  await dialog.getByText("Point at something that both frames show").waitFor();
  const [p, q] = [await box(left), await box(right)];
  await page.mouse.click(p.x + x + 4, p.y + y);
  await dialog.getByText("Now the same thing in the frame on the right").waitFor();
  await page.mouse.click(q.x + u + 3, q.y + v + 2);
  // what is being done is said in the place of the count until the tie is kept
  await list
    .getByText("manual")
    .first()
    .or(dialog.getByText("Keep as it is"))
    .first()
    .waitFor({ timeout: 180000 });
  await page.keyboard.press("n");
  await dialog
    .getByText(new RegExp(`${before + 1} ties hold 7 of 7 frames`))
    .waitFor({ timeout: 180000 });
  const own = list.getByRole("option", { selected: true }).filter({ hasText: "manual" });
  expect(Number(/(\d\.\d\d) px/.exec((await own.first().textContent())!)![1])).toBeLessThan(2);
  await page.keyboard.press("Escape");
  await dialog.waitFor({ state: "detached" });
  await page.keyboard.press("Control+z");
  await settled(page);
});

test("two rows, the lower one taken on the way back, are one panorama", async () => {
  await openDemoStack(r, 10);
  const { page } = r;
  await page
    .getByText(/12 frames placed, cylindrical, level by [^,]*, ±[\d.]+°, ties 0\.\d\d px/)
    .waitFor();
  expect(await page.getByRole("img", { name: "12 of 12 frames placed" }).count()).toBe(1);
  // sky above, the hill below, and nothing black between
  for (const y of [0.36, 0.5, 0.64])
    for (const v of await mean(page, { x: 0.1, y, w: 0.8, h: 0.02 })) expect(v).toBeGreaterThan(25);
});
