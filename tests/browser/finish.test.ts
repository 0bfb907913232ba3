import type { Locator } from "playwright-core";
import {
  choose,
  dragOver,
  eventually,
  fingerprint,
  fromMenu,
  mean,
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
  await openStep(r.page, "finish");
});
afterAll(async () => {
  await r?.close();
});

const slider = (name: string): Locator => r.page.getByRole("slider", { name, exact: true });
const valueOf = async (name: string): Promise<number> =>
  Number(await slider(name).getAttribute("aria-valuenow"));
const parts = (): Locator => r.page.getByRole("list", { name: "Parts" }).getByRole("listitem");
const group = (name: string): Locator => r.page.locator(`section[aria-label="${name}"]`);
const undo = (): Promise<void> => shownAfter(r.page, () => r.page.keyboard.press("Control+z"));

/** Opens a group of adjustments, where it is not open already. */
async function openGroup(name: string): Promise<void> {
  const head = group(name).locator("button[aria-expanded]").first();
  if ((await head.getAttribute("aria-expanded")) === "false") await head.click();
}

const place = (x: number, y: number): Promise<[number, number]> => placeOn(r.page, x, y);
const drag = (points: readonly (readonly [number, number])[]): Promise<void> =>
  dragOver(r.page, points);

const GROUPS: Readonly<Record<string, readonly string[]>> = {
  Light: ["Exposure", "Contrast", "Darks", "Lights", "Side light", "Middle zone"],
  "Detail by scale": ["Small, 8 px"],
  Colour: [
    "Temperature",
    "Tint",
    "Saturation",
    "Dull colours",
    "Tint of darks",
    "Tint of middle",
    "Tint of lights",
    "Black and white",
  ],
  Noise: ["Noise reduction", "Colour noise"],
  Sharpening: ["Sharpening"],
  Air: ["Clear the air", "Glow", "Vignette"],
  Rims: ["Purple rims", "Green rims"],
};

test("every adjustment is moved by keys, is seen, and is taken back to the very picture before", async () => {
  const { page } = r;
  await shownAfter(page, () => page.keyboard.press("1"));
  // the picture at full size, which is sharper than what is shown until it is there
  await page.locator('canvas[data-sharp="true"]').waitFor();
  await settled(page);
  const rest = await fingerprint(page);
  for (const [name, labels] of Object.entries(GROUPS)) {
    await openGroup(name);
    for (const label of labels) {
      await slider(label).focus();
      const key = label.endsWith("zone") ? "ArrowUp" : "PageUp";
      await shownAfter(page, async () => {
        await page.keyboard.press(key);
        await saved(page);
      });
      await settled(page);
      const changed = await fingerprint(page);
      // what is noise, rims or glow may not be in the part that is seen
      if (!["Rims", "Noise"].includes(name) && label !== "Glow")
        expect([label, changed === rest]).toEqual([label, false]);
      await undo();
      await settled(page);
      expect([label, (await fingerprint(page)) === rest]).toEqual([label, true]);
    }
  }
  await page.keyboard.press("f");
  await settled(page);
});

test("a row is dragged, typed into and put back by a double-click", async () => {
  const { page } = r;
  await openGroup("Light");
  const row = slider("Contrast").locator("..");
  await row.scrollIntoViewIfNeeded();
  const box = (await row.boundingBox())!;
  await page.mouse.move(box.x + 60, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 110, box.y + 10, { steps: 5 });
  await page.mouse.up();
  await eventually(async () => expect(await valueOf("Contrast")).toBeGreaterThan(0.1));
  await page.getByRole("textbox", { name: "Contrast, %" }).fill("25");
  await page.keyboard.press("Enter");
  await eventually(async () => expect(await valueOf("Contrast")).toBe(0.25));
  await row.dblclick({ position: { x: 60, y: 10 } });
  await eventually(async () => expect(await valueOf("Contrast")).toBe(0));
  await saved(page);
});

test("a curve gets points by mouse and keys, and is straight again", async () => {
  const { page } = r;
  const curve = page.getByRole("group", { name: "All curve" });
  await curve.scrollIntoViewIfNeeded();
  const before = await mean(page);
  const box = (await curve.boundingBox())!;
  await shownAfter(page, async () => {
    await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.3);
    await saved(page);
  });
  expect((await mean(page))[1]!).toBeGreaterThan(before[1]! + 5);
  const point = curve.getByRole("slider");
  await point.focus();
  const high = await valueOf("Point 1 of the all curve");
  await page.keyboard.press("ArrowDown");
  await eventually(async () => expect(await valueOf("Point 1 of the all curve")).toBe(high - 1));
  await page.keyboard.press("Delete");
  await eventually(async () => expect(await point.count()).toBe(0));
  await choose(page, "Curve", "Blue");
  await shownAfter(page, () => page.getByRole("button", { name: "Add a point" }).click());
  await page.getByRole("button", { name: "Straight" }).click();
  await settled(page);
  expect(await mean(page)).toEqual(before);
});

test("a range of hues is added on its strip and moved on the picture itself", async () => {
  const { page } = r;
  await openGroup("Colour");
  await page.getByRole("button", { name: "Add a range" }).click();
  await shownAfter(page, async () => {
    await slider("Saturation of the range").focus();
    await page.keyboard.press("Home");
    await saved(page);
  });
  await page.getByRole("button", { name: "Delete this range" }).click();
  await settled(page);
  await page.getByRole("button", { name: "On the picture" }).click();
  // the red chair
  await shownAfter(page, () =>
    drag([
      [0.17, 0.76],
      [0.22, 0.7],
    ]),
  );
  await eventually(async () =>
    expect(await valueOf("Saturation of the range")).toBeGreaterThan(0.05),
  );
  expect(await valueOf("Lightness of the range")).toBeGreaterThan(0.02);
  await page.keyboard.press("Escape");
  await undo();
});

/** How each kind of part is drawn over the picture. */
const DRAWN: readonly (readonly [string, string, () => Promise<void>])[] = [
  [
    "Outline",
    "Outline",
    () =>
      drag([
        [0.1, 0.6],
        [0.3, 0.6],
        [0.3, 0.9],
        [0.1, 0.9],
      ]),
  ],
  [
    "Brush",
    "Painted",
    () =>
      drag([
        [0.15, 0.74],
        [0.19, 0.8],
      ]),
  ],
  [
    "Gradient",
    "Gradient",
    () =>
      drag([
        [0.5, 0.1],
        [0.5, 0.6],
      ]),
  ],
  [
    "Ellipse",
    "Ellipse",
    () =>
      drag([
        [0.5, 0.5],
        [0.65, 0.7],
      ]),
  ],
  ["Tones", "Tones", () => click(0.7, 0.9)],
  ["Colours", "Colours", () => click(0.17, 0.76)],
  ["Sample", "Sample", () => click(0.17, 0.76)],
];

async function click(x: number, y: number): Promise<void> {
  await r.page.mouse.click(...(await place(x, y)));
}

test.each(DRAWN)(
  "%s: drawn by mouse, by keys too; seen, masked, counted, undone",
  async (tool, name, draw) => {
    const { page } = r;
    const button = page
      .getByRole("group", { name: "Shapes of parts" })
      .getByRole("button", { name: tool, exact: true });
    await button.scrollIntoViewIfNeeded();
    const before = await parts().count();
    await button.click();
    await draw();
    await eventually(async () => expect(await parts().count()).toBe(before + 1));
    await page.keyboard.press("Escape");
    const part = parts().last();
    await part.getByText(name).first().waitFor();
    // numbers of the part beside the picture
    await eventually(async () => {
      const share = await page
        .getByRole("region", { name: "This part" })
        .locator("dd")
        .first()
        .innerText();
      expect(Number(share)).toBeGreaterThan(0);
    });
    const plain = await fingerprint(page);
    await shownAfter(page, () => page.keyboard.press("j"));
    expect(await fingerprint(page)).not.toBe(plain);
    await page.keyboard.press("Escape");
    await slider("Exposure").focus();
    await shownAfter(page, async () => {
      for (let i = 0; i < 3; i++) await page.keyboard.press("PageUp");
      await saved(page);
    });
    expect(await fingerprint(page)).not.toBe(plain);
    await undo();
    await page.keyboard.press("Control+z");
    await eventually(async () => expect(await parts().count()).toBe(before));
    // by keys
    await button.focus();
    await page.keyboard.press("Enter");
    await page.locator("canvas").first().focus();
    await page.keyboard.press("Enter");
    await eventually(async () => expect(await parts().count()).toBe(before + 1));
    await page.keyboard.press("Escape");
    await page.keyboard.press("Control+z");
    await eventually(async () => expect(await parts().count()).toBe(before));
  },
);

test("a sky finds itself; parts are named, ordered, doubled, switched, joined, and there after a reload", async () => {
  const { page } = r;
  await page.getByRole("button", { name: "Sky", exact: true }).click();
  await eventually(async () => expect(await parts().count()).toBe(2));
  await slider("Exposure").focus();
  await shownAfter(page, async () => {
    for (let i = 0; i < 4; i++) await page.keyboard.press("PageDown");
    await saved(page);
  });
  const sky = parts().nth(1).getByRole("button", { name: /Sky/ }).first();
  await sky.focus();
  await page.keyboard.press("F2");
  await page.getByRole("textbox", { name: "Name of the part" }).fill("Slit of the dome");
  await page.keyboard.press("Enter");
  await parts().getByText("Slit of the dome").waitFor();
  await fromMenu(page, "More for Slit of the dome", "Duplicate");
  await eventually(async () => expect(await parts().count()).toBe(3));
  await fromMenu(page, "More for Slit of the dome 2", "Move up");
  await eventually(async () => expect(await parts().nth(1).innerText()).toMatch(/dome 2/));
  // a shape taken from it
  await choose(page, "Next shape", "Subtract");
  await page
    .getByRole("group", { name: "Shapes of parts" })
    .getByRole("button", { name: "Ellipse" })
    .click();
  await shownAfter(page, () =>
    drag([
      [0.42, 0.1],
      [0.5, 0.2],
    ]),
  );
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "2 shapes" }).click();
  await slider("Width of shape 2").waitFor();
  await slider(`Amount of Slit of the dome 2`).focus();
  await shownAfter(page, async () => {
    await page.keyboard.press("PageDown");
    await saved(page);
  });
  const before = await fingerprint(page);
  await page.getByRole("checkbox", { name: "Slit of the dome 2 is on" }).click();
  await settled(page);
  expect(await fingerprint(page)).not.toBe(before);
  await undo();
  await settled(page);
  expect(await fingerprint(page)).toBe(before);

  await page.reload();
  await settled(page);
  await openStep(page, "finish");
  expect(await parts().allInnerTexts()).toEqual([
    expect.stringContaining("Whole picture"),
    expect.stringMatching(/dome 2[^]*90/),
    expect.stringContaining("Slit of the dome"),
  ]);
  await page.keyboard.press("q");
  await page.keyboard.press("q");
  await parts().nth(2).getByRole("button", { name: /Slit/, pressed: true }).waitFor();
  await parts().nth(2).getByRole("button", { name: /Slit/, pressed: true }).focus();
  await page.keyboard.press("Delete");
  await eventually(async () => expect(await parts().count()).toBe(2));
});

test("before and after: without the finish, without the part, and without a group", async () => {
  const { page } = r;
  await settled(page);
  const finished = await fingerprint(page);
  for (const key of ["u", "y"]) {
    await shownAfter(page, () => page.keyboard.down(key));
    expect(await fingerprint(page)).not.toBe(finished);
    await shownAfter(page, () => page.keyboard.up(key));
    expect(await fingerprint(page)).toBe(finished);
  }
  await group("Light").getByRole("checkbox", { name: "Light is on" }).click();
  await settled(page);
  expect(await fingerprint(page)).not.toBe(finished);
  await undo();
  await settled(page);
  expect(await fingerprint(page)).toBe(finished);
  expect(r.errors).toEqual([]);
  expect(r.foreign).toEqual([]);
});
