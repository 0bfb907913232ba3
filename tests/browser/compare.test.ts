import type { Locator } from "playwright-core";
import {
  eventually,
  fingerprint,
  merged,
  openDemoStack,
  saved,
  settled,
  start,
  type Running,
} from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
  await openDemoStack(r, 0);
  const { page } = r;
  await settled(page);
  await page.keyboard.press("Alt+n");
  await page
    .getByRole("region", { name: "Takes" })
    .getByRole("button", { name: "First again", pressed: true })
    .waitFor();
  const strength = page.getByRole("slider", { name: "Strength", exact: true });
  await strength.focus();
  await page.keyboard.press("Home");
  await saved(page);
});
afterAll(async () => {
  await r?.close();
});

const panes = (): Locator => r.page.getByTestId("compared");
const drawn = (sides: number): Promise<void> =>
  eventually(async () =>
    expect(await panes().first().getAttribute("data-drawn")).toBe(String(sides)),
  );
const fingerprintOf = (pane: number): Promise<number> => fingerprint(r.page, panes().nth(pane));
const row = (name: string): Locator =>
  r.page.getByRole("region", { name: "In numbers" }).getByRole("row", { name });

test("this take and the delivered one are laid against each other, in numbers and words", async () => {
  const { page } = r;
  await page.keyboard.press("Alt+c");
  await drawn(2);
  await page.getByText(/Tone: Strength$/).waitFor();
  await eventually(async () =>
    expect(/TMQI 0\.\d+ 0\.\d+/.test((await row("TMQI").innerText()).replaceAll("\t", " "))).toBe(
      true,
    ),
  );
  await row("Scene range").waitFor();
});

test("side by side, flicker and difference by their keys; zoom goes for all", async () => {
  const { page } = r;
  await page.keyboard.press("s");
  await eventually(async () => expect(await panes().count()).toBe(2));
  await drawn(2);
  await eventually(async () => expect(await fingerprintOf(0)).not.toBe(await fingerprintOf(1)));
  const fit = [await fingerprintOf(0), await fingerprintOf(1)];
  await page.keyboard.press("1");
  await eventually(async () => expect(await fingerprintOf(0)).not.toBe(fit[0]));
  await eventually(async () => expect(await fingerprintOf(1)).not.toBe(fit[1]));
  await page.keyboard.press("f");
  await eventually(async () => expect(await fingerprintOf(1)).toBe(fit[1]));
  await page.keyboard.press("k");
  await eventually(async () => expect(await panes().count()).toBe(1));
  const first = await fingerprintOf(0);
  await eventually(async () => expect(await fingerprintOf(0)).not.toBe(first));
  await page.keyboard.press("x");
  await page.getByRole("slider", { name: "Gain" }).waitFor();
});

test("a place is picked on every side, and the loupe shows each at 100 %", async () => {
  const { page } = r;
  await page.keyboard.press("w");
  const box = (await panes().first().boundingBox())!;
  await page.mouse.click(box.x + box.width * 0.4, box.y + box.height * 0.5);
  await eventually(async () =>
    expect(await page.getByRole("table", { name: "Picked places" }).getByRole("row").count()).toBe(
      1,
    ),
  );
  await page.keyboard.press("l");
  const loupe = page.getByRole("group", { name: "Loupe" });
  await eventually(async () => expect(await loupe.locator("canvas[data-drawn]").count()).toBe(2));
  await page.keyboard.press("l");
});

test("a frame and a look are compared too, up to four, and a key chooses the winner", async () => {
  const { page } = r;
  const menu = page.getByRole("combobox", { name: "Side 2" });
  await menu.click();
  await page.getByRole("option", { name: /^Frame: QM_0412/ }).click();
  await drawn(2);
  await page.getByRole("button", { name: "Compare one more" }).click();
  await page.getByRole("button", { name: "Compare one more" }).click();
  await page.keyboard.press("s");
  await eventually(async () => expect(await panes().count()).toBe(4));
  await drawn(4);
  await eventually(async () =>
    expect(await page.getByRole("button", { name: "Compare one more" }).count()).toBe(0),
  );
  await page.keyboard.press("Alt+1");
  await page.keyboard.press("Enter");
  await page.getByText("First again is delivered from now on.").waitFor();
  await page.reload();
  await drawn(4);
  await page.keyboard.press("Backspace");
  await merged(page);
  await page.getByRole("region", { name: "Takes" }).getByText("delivered").waitFor();
});
