import { execFileSync } from "node:child_process";
import { join } from "node:path";
import {
  choose,
  eventually,
  FRAMES,
  mean,
  merged,
  saved,
  settled,
  shownAfter,
  start,
  type Running,
} from "./harness";

let r: Running;
const names = [433, 434, 435, 436].map((n) => `QM_0${n}.jpg`);
const AGAIN = "QM_0434_again.jpg";
const tool = (name: string, ...args: string[]): void => {
  execFileSync(name, args, { stdio: "ignore" });
};
const done = (): Promise<void> => settled(r.page);
beforeAll(async () => {
  r = await start();
  // each frame a third of a stop brighter than the one before, as a meter drifts; one of them
  // twice, a hand's width beside
  for (const [i, n] of names.entries()) {
    const brighter = 2 ** (i / 3 - 0.5);
    tool(
      "convert",
      join(FRAMES, n),
      "-set",
      "colorspace",
      "sRGB",
      "-colorspace",
      "RGB",
      "-evaluate",
      "multiply",
      String(brighter),
      "-colorspace",
      "sRGB",
      "-quality",
      "93",
      join(r.dir, n),
    );
    tool(
      "exiftool",
      "-q",
      "-overwrite_original",
      "-tagsfromfile",
      join(FRAMES, n),
      "-all:all",
      join(r.dir, n),
    );
  }
  tool(
    "convert",
    join(r.dir, names[1]!),
    "-distort",
    "SRT",
    "10,10 1 0 14,6",
    "-quality",
    "90",
    join(r.dir, AGAIN),
  );
  tool(
    "exiftool",
    "-q",
    "-overwrite_original",
    "-tagsfromfile",
    join(r.dir, names[1]!),
    "-all:all",
    "-SubSecTimeOriginal=990",
    join(r.dir, AGAIN),
  );
});
afterAll(async () => {
  await r?.close();
});

test("a frame taken twice is named, left out, and used when it is asked for", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page
    .getByLabel("Files to bring in")
    .first()
    .setInputFiles([...names, AGAIN].map((n) => join(r.dir, n)));
  await page.waitForURL(/shoots\/[^/]+$/);
  await page.getByText("5 frames in 1 stack").waitFor({ timeout: 120000 });
  await page
    .getByRole("grid", { name: "Stacks" })
    .getByRole("row")
    .first()
    .locator("a")
    .first()
    .click();
  await page.waitForURL(/shoots\/[^/]+\/[^/]+$/);
  await merged(page);
  await page
    .getByText(`4 frames placed, ${AGAIN} left out: it shows the same as QM_0434.jpg; `)
    .waitFor();
  await page.getByRole("cell", { name: "same as QM_0434" }).waitFor();
  await page.getByRole("button", { name: /^done Panorama/ }).click();
  await choose(page, "Taken twice", "Used");
  await page
    .getByText(/5 frames placed, cylindrical|5 frames placed, rectilinear/)
    .waitFor({ timeout: 180000 });
  await done();
  await page.keyboard.press("Control+z");
  await page.getByText(/4 frames placed, /).waitFor({ timeout: 180000 });
  await done();
});

test("a part is painted over, given to one frame alone, copied to another frame, and undone; seams and outlines are shown", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  const at = (x: number, y: number): [number, number] => [
    box.x + box.width * x,
    box.y + box.height * y,
  ];
  const given = async (): Promise<number> =>
    Number(
      /(\d+\.\d) %/.exec(
        (await page
          .getByRole("region", { name: "Maps" })
          .getByRole("listitem")
          .filter({ hasText: "QM_0435" })
          .locator("span")
          .last()
          .textContent())!,
      )![1],
    );
  await shownAfter(page, () => page.keyboard.press("s"));
  const before = await given();
  await page.keyboard.press("Shift+G");
  await page.mouse.move(...at(0.5, 0.4));
  await page.mouse.down();
  for (const x of [0.5, 0.52, 0.55]) await page.mouse.move(...at(x, 0.55), { steps: 6 });
  await page.mouse.up();
  await page
    .getByRole("region", { name: "Choose a frame for this area" })
    .getByRole("button", { name: /^Hide in QM_0435/ })
    .click();
  await page.getByRole("list", { name: "Masks" }).getByText("In QM_0435").waitFor();
  await done();
  // what is hidden in a frame it no longer gives
  await eventually(async () => expect(await given()).toBeLessThan(before));
  await choose(page, "Copy mask 1 to", "QM_0433.jpg");
  await page.getByRole("list", { name: "Masks" }).getByText("In QM_0433").waitFor();
  await done();
  for (let i = 0; i < 2; i++) {
    await page.keyboard.press("Control+z");
    await saved(page);
  }
  await page.getByRole("list", { name: "Masks" }).waitFor({ state: "detached" });
  await done();
  await page.keyboard.press("s");
  await shownAfter(page, () => page.keyboard.press("e"));
  expect(await page.getByRole("button", { name: /^Seams/ }).getAttribute("aria-pressed")).toBe(
    "true",
  );
  await page.keyboard.press("e");
});

test("a line drawn along what is straight is listed with how straight its edge is, or that there is none, and undone", async () => {
  const { page } = r;
  const box = (await page.locator("canvas").first().boundingBox())!;
  await page.keyboard.press("k");
  await page.mouse.move(box.x + box.width * 0.35, box.y + box.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height * 0.51, { steps: 4 });
  await page.mouse.up();
  await page
    .getByRole("list", { name: "Guides" })
    .getByText(/Straight line 1(, \d+\.\d\d px|: no edge)/)
    .waitFor({ timeout: 60000 });
  await done();
  await page.keyboard.press("Control+z");
  await page.getByRole("list", { name: "Guides" }).waitFor({ state: "detached" });
  await done();
});

test("a steady change of exposure is evened, or kept without its steps", async () => {
  const { page } = r;
  const brighter = async (): Promise<number> => {
    const [left, right] = [
      (await mean(page, { x: 0.28, y: 0.3, w: 0.06, h: 0.04 }))[1]!,
      (await mean(page, { x: 0.66, y: 0.3, w: 0.06, h: 0.04 }))[1]!,
    ];
    return right - left;
  };
  const even = await brighter();
  const becomes = (ramped: boolean): Promise<void> =>
    eventually(async () => expect((await brighter()) > even + 12).toBe(ramped));
  await shownAfter(page, () => choose(page, "Light", "Ramp"));
  await becomes(true);
  await done();
  await page.keyboard.press("Control+z");
  await becomes(false);
  await done();
  expect(r.errors).toEqual([]);
});
