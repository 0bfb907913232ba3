import { readFile } from "node:fs/promises";
import { join } from "node:path";
import type { CDPSession, Locator, Page } from "playwright-core";
import { eventually, FRAMES, merged, saved, settled, startTouch, type Running } from "./harness";

/** A bracket through which somebody walks. */
const BRACKET = [424, 425, 426, 427, 428].map((n) => join(FRAMES, `QM_0${n}.jpg`));

type Point = [number, number];

/** Fingers go down at the first places, along all that follow, and up. */
async function drag(fingers: CDPSession, ...paths: Point[][]): Promise<void> {
  const at = (k: number) => paths.map((path, id) => ({ x: path[k]![0], y: path[k]![1], id }));
  await fingers.send("Input.dispatchTouchEvent", { type: "touchStart", touchPoints: at(0) });
  for (let k = 1; k < paths[0]!.length; k++)
    await fingers.send("Input.dispatchTouchEvent", { type: "touchMove", touchPoints: at(k) });
  await fingers.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
}

/** Places on a straight way. */
const along = ([x0, y0]: Point, [x1, y1]: Point, steps = 8): Point[] =>
  Array.from({ length: steps + 1 }, (_, k) => [
    x0 + ((x1 - x0) * k) / steps,
    y0 + ((y1 - y0) * k) / steps,
  ]);

/** Nothing is scrolled sideways, and what is tapped is large enough. */
async function fits(page: Page): Promise<void> {
  const { over, small } = await page.evaluate(() => {
    const controls = [...document.querySelectorAll("button, a[href], [role=checkbox]")];
    return {
      over: document.documentElement.scrollWidth - window.innerWidth,
      small: controls.flatMap((e) => {
        const { width, height } = e.getBoundingClientRect();
        return width && Math.max(width, height) < 24 ? [e.outerHTML.slice(0, 90)] : [];
      }),
    };
  });
  expect(over).toBeLessThanOrEqual(0);
  expect(small.filter((html) => !/role="checkbox"/.test(html))).toEqual([]);
}

const openByTap = async (page: Page, step: string): Promise<void> => {
  const head = page.getByTestId(`step ${step}`);
  if ((await head.getAttribute("aria-expanded")) === "false") await head.tap();
};

const middleOf = async (at: Locator): Promise<{ x: number; y: number; width: number }> => {
  const box = (await at.boundingBox())!;
  return { x: box.x + box.width / 2, y: box.y + box.height / 2, width: box.width };
};

test.each([
  [820, 1180],
  [1024, 768],
  [1280, 800],
  [1920, 1080],
])(
  "at %i x %i a bracket is brought in, merged, toned, mended and delivered by touch alone",
  async (width, height) => {
    const r: Running = await startTouch({ width, height });
    try {
      const { page } = r;
      await page.goto(`${r.base}/shoots`);
      await page.getByLabel("Files to bring in").setInputFiles(BRACKET);
      // the new shoot is opened by itself
      await page.getByRole("grid", { name: "Stacks" }).waitFor({ timeout: 180000 });
      await page.getByText("5 exposures").first().waitFor();
      await fits(page);
      await page.getByRole("grid", { name: "Stacks" }).locator("a").first().tap();
      await merged(page);
      await fits(page);
      const fingers = await r.context.newCDPSession(page);

      // tone: the row follows the finger
      await openByTap(page, "tone");
      const slider = page.getByRole("slider", { name: "Exposure" });
      const row = await middleOf(slider.locator("xpath=.."));
      await drag(fingers, along([row.x, row.y], [row.x + row.width / 5, row.y]));
      await eventually(async () =>
        expect(Number(await slider.getAttribute("aria-valuenow"))).toBeGreaterThan(0.5),
      );
      await saved(page);

      // two fingers zoom
      const canvas = await middleOf(page.getByLabel("The picture"));
      const zoom = async (): Promise<number> =>
        Number.parseFloat((await page.getByTestId("zoom").textContent())!);
      const before = await zoom();
      await drag(
        fingers,
        along([canvas.x - 20, canvas.y], [canvas.x - 110, canvas.y]),
        along([canvas.x + 20, canvas.y], [canvas.x + 110, canvas.y]),
      );
      await eventually(async () => expect(await zoom()).toBeGreaterThan(before * 2));
      await page.getByRole("button", { name: "Fit" }).tap();

      // a ghost patch is painted and given to a frame
      await openByTap(page, "ghosts");
      await page.getByRole("button", { name: "Paint" }).tap();
      await drag(fingers, along([canvas.x - 30, canvas.y], [canvas.x + 30, canvas.y + 20]));
      const choices = page
        .getByRole("complementary", { name: "Evidence" })
        .getByRole("button", { name: /EV/ });
      await eventually(async () => {
        if (await choices.count()) await choices.nth(1).tap({ timeout: 2000 });
        await page.getByLabel("Patch 1 is on").waitFor({ timeout: 2000 });
      });
      await settled(page);

      const waiting = page.waitForEvent("download", { timeout: 180000 });
      await page.getByTestId("deliver").first().tap();
      const path = join(r.dir, "out.jpg");
      await (await waiting).saveAs(path);
      expect([...(await readFile(path)).subarray(0, 2)]).toEqual([0xff, 0xd8]);
      expect(r.errors).toEqual([]);
    } finally {
      await r.close();
    }
  },
);
