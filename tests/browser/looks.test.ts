import { readFile } from "node:fs/promises";
import type { Locator } from "playwright-core";
import {
  eventually,
  fingerprint,
  fromMenu,
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
});
afterAll(async () => {
  await r?.close();
});

const cells = (): Locator =>
  r.page.getByRole("listbox", { name: "Looks tried" }).getByRole("option");
const cell = (name: string): Locator =>
  cells().and(r.page.getByRole("option", { name, exact: true }));
const drawnCells = async (count: number): Promise<void> =>
  eventually(async () => expect(await cells().locator("canvas[data-drawn]").count()).toBe(count));
const cellPicture = (name: string): Promise<number> =>
  fingerprint(r.page, cell(name).locator("canvas"));
const adjustment = async (name: string): Promise<number> =>
  Number(
    await r.page.getByRole("slider", { name, exact: true }).first().getAttribute("aria-valuenow"),
  );

test("several looks are tried at once, stepped through, and one goes as far as it is dragged", async () => {
  const { page } = r;
  await settled(page);
  await page.keyboard.press("z");
  await drawnCells(6);
  const asItIs = await cellPicture("As it is");
  const whole = await cellPicture("Clear rooms");
  expect(whole).not.toBe(asItIs);
  await page.keyboard.press("ArrowDown");
  expect(await cell("Clear rooms").getAttribute("aria-selected")).toBe("true");
  const box = (await cell("Clear rooms").boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.8, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.05, box.y + 40, { steps: 5 });
  await page.mouse.up();
  await eventually(async () => expect(await cellPicture("Clear rooms")).toBe(asItIs));
  await page.keyboard.press("ArrowRight");
  await eventually(async () => expect(await cellPicture("Clear rooms")).not.toBe(asItIs));
  await page.keyboard.press("PageDown");
  await eventually(async () => expect(await cell("Timber").count()).toBe(1));
});

test("a look is applied by a key, undone, and kept as a new take", async () => {
  const { page } = r;
  await page.keyboard.press("Escape");
  await settled(page);
  const before = await fingerprint(page);
  await page.keyboard.press("z");
  for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowDown");
  await eventually(async () =>
    expect(await cell("Timber").getAttribute("aria-selected")).toBe("true"),
  );
  await page.keyboard.press("Enter");
  await saved(page);
  await settled(page);
  await eventually(async () => expect(await fingerprint(page)).not.toBe(before));
  await page.keyboard.press("Control+z");
  await eventually(async () => expect(await fingerprint(page)).toBe(before));
  await page.keyboard.press("z");
  for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Shift+Enter");
  await page
    .getByRole("region", { name: "Takes" })
    .getByRole("button", { name: "Timber", pressed: true })
    .waitFor();
  await page.getByTestId("step finish").click();
  await eventually(async () => expect(await adjustment("Contrast")).toBe(0.07));
});

test("a take is kept as a look, handed out, brought in, renamed and deleted", async () => {
  const { page, base } = r;
  await page.keyboard.press("z");
  await page.getByRole("button", { name: "Keep this take as a look" }).click();
  await page.getByRole("textbox", { name: "Name of the look" }).fill("Agent B");
  await page.keyboard.press("Enter");
  await page
    .getByRole("button", { name: /Agent B/ })
    .first()
    .waitFor();
  await page.goto(`${base}/looks`);
  const list = page.getByRole("list", { name: "Looks" });
  await drawnCells(6);
  await list.getByRole("button", { name: /Agent B/ }).click();
  const download = page.waitForEvent("download");
  await fromMenu(page, "More for Agent B", "Hand out as a file");
  const file = (await (await download).path())!;
  const handed = JSON.parse(await readFile(file, "utf8")) as { name: string };
  expect(handed.name).toBe("Agent B");
  const text = await readFile(file);
  await page.getByLabel("Looks to bring in", { exact: true }).setInputFiles([
    { name: "agent.look.json", mimeType: "application/json", buffer: text },
    { name: "odd.json", mimeType: "application/json", buffer: Buffer.from("{}") },
  ]);
  await page.getByText(/1 look brought in\..*odd\.json/).waitFor();
  await list.getByRole("button", { name: /Agent B 2 own/ }).click();
  await list.getByRole("button", { name: /Agent B 2 own/ }).press("F2");
  await page.getByRole("textbox", { name: "Name of the look" }).fill("Quiet");
  await page.keyboard.press("Enter");
  await list.getByRole("button", { name: /Quiet own/ }).press("Delete");
  await eventually(async () =>
    expect(await list.getByRole("button", { name: /Quiet own/ }).count()).toBe(0),
  );
  await page.getByRole("button", { name: "Bring it back" }).click();
  await list.getByRole("button", { name: /Quiet own/ }).waitFor();
  await page.reload();
  await list.getByRole("button", { name: /Quiet own/ }).waitFor();
});

test("the board applies a look to what is selected, with an amount, and says it", async () => {
  const { page, base } = r;
  await page.goto(`${base}/shoots`);
  await page
    .getByRole("link", { name: /Quillmoor/ })
    .first()
    .click();
  await page.getByRole("grid", { name: "Stacks" }).waitFor();
  await fromMenu(page, "Settings", "Apply a look…");
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("combobox", { name: "Look" }).click();
  await page.getByRole("option", { name: "Late lamp" }).click();
  await dialog.getByRole("button", { name: "Begin with this look" }).click();
  await dialog.getByText(/Begin with Late lamp/).waitFor();
  await dialog.getByRole("button", { name: "Begin without one" }).click();
  await dialog.getByText("Begin without a look").waitFor();
  await dialog.getByRole("button", { name: /Apply to 1 stack/ }).click();
  await page.getByText(/Late lamp on 1 stack/).waitFor();
  await page
    .getByRole("grid", { name: "Stacks" })
    .getByRole("row")
    .first()
    .getByRole("link")
    .first()
    .click();
  await merged(page);
  await page.getByTestId("step finish").click();
  await eventually(async () => expect(await adjustment("Contrast")).toBe(0.1));
});
