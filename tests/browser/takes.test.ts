import type { Locator } from "playwright-core";
import {
  eventually,
  fingerprint,
  fromMenu,
  merged,
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
  await openDemoStack(r, 0);
});
afterAll(async () => {
  await r?.close();
});

const takes = (): Locator => r.page.getByRole("region", { name: "Takes" }).getByRole("listitem");
const names = (): Promise<string[]> =>
  takes()
    .locator("button[aria-pressed]")
    .evaluateAll((buttons) => buttons.map((b) => b.textContent!));
const openName = (): Promise<string> => takes().locator("button[aria-pressed=true]").innerText();
const strength = (): Locator => r.page.getByRole("slider", { name: "Strength", exact: true });
const setStrength = async (key: string): Promise<void> => {
  await strength().focus();
  await shownAfter(r.page, () => r.page.keyboard.press(key));
  await saved(r.page);
};

test("a take from this one has settings of its own and shares the merge", async () => {
  const { page } = r;
  await settled(page);
  const first = await fingerprint(page);
  await page.keyboard.press("Alt+n");
  await eventually(async () => expect((await names()).length).toBe(2));
  await eventually(async () => expect(await openName()).toBe("First again"));
  await setStrength("Home");
  await eventually(async () => expect(await fingerprint(page)).not.toBe(first));
  await settled(page);
  const second = await fingerprint(page);
  await page.keyboard.press("Alt+1");
  await eventually(async () => expect(await openName()).toBe("First"));
  await eventually(async () => expect(await fingerprint(page)).toBe(first));
  // nothing was merged again for it
  expect(await page.locator("[role=status]").count()).toBe(0);
  await page.keyboard.press("Alt+2");
  await eventually(async () => expect(await fingerprint(page)).toBe(second));
});

test("a take is renamed, described, delivered, and the board says which", async () => {
  const { page } = r;
  await takes().nth(1).locator("button[aria-pressed]").press("F2");
  await page.getByRole("textbox", { name: "Name of the take" }).fill("Soft");
  await page.keyboard.press("Enter");
  await eventually(async () => expect((await names())[1]!.startsWith("Soft")).toBe(true));
  await takes().nth(1).locator("button[aria-pressed]").press("Shift+F2");
  await page.getByRole("textbox", { name: "Description of the take" }).fill("for the leaflet");
  await page.keyboard.press("Enter");
  await page.getByText("for the leaflet").waitFor();
  await fromMenu(page, "More for Soft", "Deliver this one");
  await takes().nth(1).getByText("delivered").waitFor();
  await page.keyboard.press("Backspace");
  await page.getByText("2 takes: Soft").waitFor();
  await page.goBack();
  await merged(page);
  await eventually(async () => expect((await names()).length).toBe(2));
});

test("what was changed is kept as a new take, and this one goes back; undo takes all back", async () => {
  const { page } = r;
  await page.keyboard.press("Alt+1");
  await eventually(async () => expect(await openName()).toBe("First"));
  await settled(page);
  const first = await fingerprint(page);
  await setStrength("End");
  await page.getByRole("button", { name: "Keep as new" }).waitFor();
  await page.keyboard.press("Alt+k");
  await eventually(async () => expect((await names()).length).toBe(3));
  await eventually(async () => expect(await openName()).toBe("First again"));
  expect(Number(await strength().getAttribute("aria-valuenow"))).toBe(1);
  await page.keyboard.press("Alt+1");
  await eventually(async () => expect(await fingerprint(page)).toBe(first));
  await setStrength("End");
  await page.getByRole("button", { name: "Update it" }).click();
  await eventually(async () =>
    expect(await page.getByRole("button", { name: "Update it" }).count()).toBe(0),
  );
  await takes().nth(1).locator("button[aria-pressed]").press("Delete");
  await eventually(async () => expect((await names()).length).toBe(2));
  await page.keyboard.press("Control+z");
  await eventually(async () => expect((await names()).length).toBe(3));
});

test("another tab sees the takes", async () => {
  const { page, context, base } = r;
  const other = await context.newPage();
  await other.goto(page.url().replace(/\?.*/, ""));
  await merged(other);
  expect(base).toBeTruthy();
  const there = other.getByRole("region", { name: "Takes" }).getByRole("listitem");
  await eventually(async () => expect(await there.count()).toBe(3));
  await page.keyboard.press("Alt+n");
  await eventually(async () => expect(await there.count()).toBe(4));
  await other.close();
});
