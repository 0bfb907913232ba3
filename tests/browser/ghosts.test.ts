import {
  eventually,
  mean,
  merged,
  openDemoStack,
  type Running,
  shownAfter,
  start,
} from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

const patches = () => r.page.getByRole("list", { name: "Ghost patches" }).getByRole("listitem");
/** Part of the canvas in which somebody stands in another frame. */
const PLACE = { x: 0.3, y: 0.45, w: 0.1, h: 0.25 };
const apart = (a: number[], b: number[]): number =>
  Math.max(...a.map((v, i) => Math.abs(v - b[i]!)));
/**
 * Waits until the place looks as it should: a merge at full size may still end, and be shown,
 * before the changed recipe's begins.
 */
async function untilPlace(isRight: (seen: number[]) => boolean): Promise<void> {
  const shown = async (): Promise<number> =>
    Number(await r.page.locator("canvas").first().getAttribute("data-shown"));
  for (let before = await shown(); !isRight(await mean(r.page, PLACE)); before = await shown())
    await r.page.waitForFunction(
      (n) => Number(document.querySelector("canvas")?.dataset["shown"] ?? 0) > n,
      before,
      { timeout: 120000 },
    );
  expect(isRight(await mean(r.page, PLACE))).toBe(true);
}

test("a part is drawn round, given to a frame that shows somebody there, switched off, and undone", async () => {
  await openDemoStack(r, 2);
  const before = await mean(r.page, PLACE);
  const box = (await r.page.locator("canvas").first().boundingBox())!;
  await r.page.keyboard.press("g");
  const at = (x: number, y: number): [number, number] => [
    box.x + box.width * x,
    box.y + box.height * y,
  ];
  await r.page.mouse.move(...at(0.26, 0.36));
  await r.page.mouse.down();
  for (const [x, y] of [
    [0.42, 0.36],
    [0.42, 0.8],
    [0.26, 0.8],
    [0.26, 0.4],
  ] as const)
    await r.page.mouse.move(...at(x, y), { steps: 6 });
  await r.page.mouse.up();
  const choices = r.page
    .getByRole("region", { name: "Choose a frame for this area" })
    .getByRole("button", { name: /EV/ });
  await choices.nth(4).waitFor();
  expect(await choices.count()).toBe(5);
  await choices.nth(3).click();
  await r.page.getByRole("list", { name: "Ghost patches" }).waitFor();
  expect(await patches().count()).toBe(1);
  expect(await r.page.getByText("1 ghost patch").count()).toBe(1);
  await untilPlace((seen) => apart(before, seen) > 0.8);
  await r.page.getByLabel("Patch 1 is on").click();
  await untilPlace((seen) => apart(before, seen) < 0.5);
  await r.page.keyboard.press("Control+z");
  await eventually(async () =>
    expect(await r.page.getByLabel("Patch 1 is on").isChecked()).toBe(true),
  );
  await r.page.keyboard.press("Control+z");
  await r.page.getByRole("list", { name: "Ghost patches" }).waitFor({ state: "detached" });
});

test("maps lie over the picture by one key, with what their colours mean", async () => {
  await merged(r.page);
  const plain = await mean(r.page);
  await shownAfter(r.page, () => r.page.keyboard.press("s"));
  // the full size may come in between
  let sources = plain;
  await eventually(async () => {
    sources = await mean(r.page);
    expect(Math.max(...plain.map((v, i) => Math.abs(v - sources[i]!)))).toBeGreaterThan(8);
  });
  const shares = (
    await r.page
      .getByRole("region", { name: "Maps" })
      .getByRole("listitem")
      .locator("span:last-child")
      .allTextContents()
  ).map((t) => Number(/([\d.]+) %/.exec(t)![1]));
  expect(shares).toHaveLength(5);
  expect(Math.abs(shares.reduce((a, b) => a + b, 0) - 100)).toBeLessThan(1);
  await shownAfter(r.page, () => r.page.keyboard.press("n"));
  expect(await r.page.getByText("48 dB").count()).toBe(1);
  await shownAfter(r.page, () => r.page.keyboard.press("n"));
  expect(Math.max(...plain.map((v, i) => Math.abs(v - sources[i]!)))).toBeGreaterThan(8);
});

test("suspects are walked by key at 100 %, and accepted for good", async () => {
  await merged(r.page);
  await r.page
    .getByRole("region", { name: "Suspects" })
    .getByText(/\d+ to look at/)
    .waitFor();
  await r.page.keyboard.press(".");
  await r.page.getByText("100 %", { exact: true }).first().waitFor();
  const list = r.page.getByRole("region", { name: "Suspects" });
  const open = async (): Promise<number> =>
    Number(/(\d+) to look at/.exec((await list.textContent())!)?.[1] ?? 0);
  const was = await open();
  expect(was).toBeGreaterThan(0);
  await r.page.keyboard.press("a");
  await r.page.waitForFunction(
    (n) =>
      document
        .querySelector("[aria-label=Suspects]")!
        .textContent!.includes(n ? `${n} to look at` : "all seen"),
    was - 1,
  );
  await r.page.reload();
  await merged(r.page);
  await r.page.waitForFunction(
    (n) =>
      document
        .querySelector("[aria-label=Suspects]")!
        .textContent!.includes(n ? `${n} to look at` : "all seen"),
    was - 1,
  );
  expect(r.errors).toEqual([]);
});
