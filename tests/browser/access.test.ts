import { readFileSync } from "node:fs";
import type { AxeResults } from "axe-core";
import type { Page } from "playwright-core";
import { STEP_NAMES } from "../../pipeline/registry";
import { SURROUNDS } from "../../app/ui/surround";
import { demoComplete, fromMenu, openDemoStack, openStep, start, type Running } from "./harness";

const AXE = readFileSync("node_modules/axe-core/axe.min.js", "utf8");
let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

/** What is wrong with a screen for who cannot see it, or not well, in each of the surroundings. */
async function violations(page: Page): Promise<string[]> {
  const found: string[] = [];
  for (const surround of SURROUNDS) {
    await page.evaluate((to) => {
      document.documentElement.dataset["surround"] = to;
    }, surround);
    // by its expression, since the page's policy lets no script in
    const { violations: list } = (await page.evaluate(
      `${AXE}; axe.run(document, { resultTypes: ["violations"] })`,
    )) as AxeResults;
    found.push(
      ...list.flatMap(({ id, nodes }) =>
        nodes.map(({ target, failureSummary }) => {
          const why = failureSummary?.split("\n").at(-1)?.trim();
          return `${surround}: ${id}: ${target.join(" ")}: ${why}`;
        }),
      ),
    );
  }
  return found;
}

test("the shelf", async () => {
  await r.page.goto(`${r.base}/shoots`);
  await r.page.getByRole("link", { name: /Quillmoor/ }).waitFor({ timeout: 180000 });
  expect(await violations(r.page)).toEqual([]);
});

test("the storage, with shoots chosen", async () => {
  const { page } = r;
  await page.goto(`${r.base}/storage`);
  await page.getByLabel("All shoots").click();
  expect(await violations(page)).toEqual([]);
  await page.goto(`${r.base}/shoots`);
});

test("the guide, its keys, and what is found by words", async () => {
  const { page } = r;
  await page.goto(`${r.base}/help`);
  await page.getByRole("article").getByRole("heading", { name: "Bring in frames" }).waitFor();
  expect(await violations(page)).toEqual([]);
  await page.goto(`${r.base}/help/keys`);
  await page.getByRole("heading", { name: "Everywhere" }).waitFor();
  await page.keyboard.press("Control+k");
  await page.getByPlaceholder("What do you want to do?").fill("deliver");
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press("Escape");
  await page.goto(`${r.base}/shoots`);
});

test("the board", async () => {
  const { page } = r;
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  expect(await violations(page)).toEqual([]);
});

test("what goes out, with the tray and its list, and a contact sheet asked for", async () => {
  const { page } = r;
  await page.goto(`${r.base}/deliver`);
  await page.getByRole("grid", { name: "Files" }).waitFor();
  await fromMenu(page, "Add", "Print");
  await page.getByRole("columnheader", { name: "Print" }).waitFor();
  await page.getByTestId("deliver").click();
  await page.getByRole("button", { name: "Pause" }).click();
  await page.getByRole("button", { name: /^List$/ }).click();
  await page.getByRole("list", { name: "Jobs" }).waitFor();
  expect(await violations(page)).toEqual([]);
  await page.getByRole("button", { name: "Stop all" }).click();
  await page.goBack();
  await demoComplete(page);
  await fromMenu(page, "Board", "Contact sheet…");
  await page.getByRole("dialog").waitFor();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press("Escape");
});

test.each([
  ["a bracket", 0],
  ["a panorama", 4],
  ["a focus stack", 5],
])("%s at work, with each of its steps open", async (_, row) => {
  await openDemoStack(r, row);
  const { page } = r;
  for (const step of STEP_NAMES) {
    if (!(await page.getByTestId(`step ${step}`).count())) continue;
    await openStep(page, step);
    expect({ step, found: await violations(page) }).toEqual({ step, found: [] });
  }
});

test("the keys' dialog, and the stand-in camera", async () => {
  const { page } = r;
  await page.keyboard.press("?");
  await page.getByRole("dialog").waitFor();
  expect(await violations(page)).toEqual([]);
  await page.goto(`${r.base}/camera`);
  await page.locator("canvas[data-ready]").waitFor({ timeout: 180000 });
  expect(await violations(page)).toEqual([]);
});
