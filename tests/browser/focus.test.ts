import { readFile } from "node:fs/promises";
import Vips from "wasm-vips";
import {
  choose,
  eventually,
  mean,
  merged,
  openDemoStack,
  saved,
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

const recipe = () => r.page.getByLabel("Recipe");
const node = (title: string) =>
  r.page.locator("ol[aria-label=Recipe] button", { hasText: title }).first();
const ramp = () => r.page.getByRole("list", { name: "Focus travel" }).getByRole("listitem");

test("a focus run is merged by itself; a step that was missed is reported where it is", async () => {
  await openDemoStack(r, 6);
  await recipe().getByText("Composed along the depth, fused where depths cross").waitFor();
  expect(await ramp().count()).toBe(18);
  const missed = await ramp().evaluateAll((l) =>
    l.flatMap((li, i) => (/step too wide/.test(li.textContent ?? "") ? [i] : [])),
  );
  expect(missed).toEqual([10]);
  const fact = (what: string): Promise<string | null> =>
    r.page.locator("dt", { hasText: what }).locator("xpath=following-sibling::dd[1]").textContent();
  expect([await fact("Gaps in depth"), await fact("Depth covered")]).toEqual(["1", "94"]);
  // the leg that was lifted while it was taken lies doubled, and is reported
  await r.page.getByText("A part moved").first().waitFor();
  await shownAfter(r.page, () => r.page.keyboard.press("s"));
  expect(await r.page.getByRole("region", { name: "Maps" }).textContent()).toMatch(
    /Depth.*QM_0463.*QM_0480.*a guess/,
  );
  // the ground behind the beetle has no texture
  expect(Number(await fact("Depth known"))).toBeGreaterThan(10);
  expect(Number(await fact("Depth known"))).toBeLessThan(97);
  await shownAfter(r.page, () => r.page.keyboard.press("s"));
});

test("one key takes the frame that is sharpest under the pointer, and a stroke gives it a part, which is undone", async () => {
  const box = (await r.page.locator("canvas").first().boundingBox())!;
  const part = { x: 0.42, y: 0.28, w: 0.08, h: 0.05 };
  const before = await mean(r.page, part);
  // from the near legs, into the back, which is soft there
  await r.page.mouse.move(box.x + box.width * 0.42, box.y + box.height * 0.72);
  await r.page.getByText(/sharpest in QM_04\d\d/).waitFor();
  await r.page.keyboard.press("t");
  expect(await r.page.getByLabel("Retouch from").textContent()).toMatch(/^QM_04/);
  await r.page.mouse.move(box.x + box.width * 0.42, box.y + box.height * 0.3);
  await r.page.mouse.down();
  await r.page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.3, { steps: 8 });
  await r.page.mouse.up();
  await recipe().getByText("1 part assigned to a frame manually").waitFor();
  await eventually(async () => {
    const given = await mean(r.page, part);
    expect(Math.max(...before.map((v, i) => Math.abs(v - given[i]!)))).toBeGreaterThan(0.3);
  });
  await r.page.keyboard.press("Escape");
  await r.page.keyboard.press("Control+z");
  await recipe().getByText("Nothing assigned manually").waitFor();
  await merged(r.page);
});

test("a slab leaves all other frames out, and the picture in space can be turned", async () => {
  await node("Frames").click();
  await choose(r.page, "Last frame of the slab", "QM_0470");
  await recipe().getByText("8 of 18 frames").waitFor();
  await saved(r.page);
  await merged(r.page);
  await r.page.getByRole("button", { name: "Depth in 3D" }).click();
  await r.page.getByLabel("The picture over its depth").locator("canvas").waitFor();
  await r.page.keyboard.press("Escape");
  await r.page.keyboard.press("Control+z");
  await recipe()
    .getByText(/^18 frames/)
    .waitFor();
  await merged(r.page);
});

test("it is delivered at full size, cropped to what all frames cover", async () => {
  const [download] = await Promise.all([
    r.page.waitForEvent("download", { timeout: 300000 }),
    r.page.getByRole("button", { name: "Deliver", exact: true }).click(),
  ]);
  const vips = await Vips({ dynamicLibraries: [] });
  const im = vips.Image.newFromBuffer(await readFile((await download.path())!));
  expect(im.width).toBeGreaterThan(1050);
  expect(im.width).toBeLessThan(1140);
  im.delete();
  expect(r.errors).toEqual([]);
});

test("a burst there and back is put into one travel; frames that show a focus again are left out, and one is taken all the same", async () => {
  await openDemoStack(r, 9);
  // nineteen steps there, seventeen of them once more on the way back
  await recipe().getByText("17 that show the same focus again left out").waitFor();
  const names = await ramp().evaluateAll((l) =>
    l.map((li) => Number(/QM_0(\d{3})/.exec(li.textContent ?? "")?.[1])),
  );
  const travel = names.map((n) => Math.min(n - 523, 559 - n));
  expect(travel.length).toBe(36);
  // along the travel the focus goes one way only, but for ends at which nothing is sharp
  expect(travel.slice(4, -2).every((f, i) => f >= travel[i + 3]!)).toBe(true);
  await node("Align").click();
  await r.page.getByRole("button", { name: "use anyway" }).first().click();
  await recipe()
    .getByText("16 that show the same focus again left out")
    .waitFor({ timeout: 180000 });
  await r.page.getByRole("button", { name: "forced" }).waitFor();
  await r.page.keyboard.press("Control+z");
  await recipe().getByText("17 that show the same focus again left out").waitFor();
  expect(r.errors).toEqual([]);
});
