import type { ChildProcess } from "node:child_process";
import { mkdtemp, readdir, readFile, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import puppeteer, { type Browser, type Page } from "puppeteer-core";
import { eventually, startServer } from "../browser/harness";

const MINUTES = 60000;
let server: ChildProcess;
let address: string;
let browser: Browser;
let page: Page;
let downloads: string;
const errors: string[] = [];

beforeAll(async () => {
  ({ server, address } = await startServer());
  downloads = await mkdtemp(join(tmpdir(), "rhizome-firefox-"));
  browser = await puppeteer.launch({
    browser: "firefox",
    executablePath: process.env["FIREFOX"] ?? "/usr/bin/firefox-esr",
    headless: true,
    extraPrefsFirefox: {
      "browser.download.folderList": 2,
      "browser.download.dir": downloads,
      "browser.download.useDownloadDir": true,
      "browser.download.always_ask_before_handling_new_types": false,
    },
  });
  page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  page.setDefaultTimeout(4 * MINUTES);
  page.on("pageerror", (e) => errors.push(String(e)));
});
afterAll(async () => {
  await browser?.close();
  server?.kill();
  await rm(downloads, { recursive: true, force: true });
});

/** Waits until the stack on screen is merged and its picture shown. */
const merged = (): Promise<unknown> =>
  page.waitForFunction(
    () =>
      Number(document.querySelector("canvas")?.dataset["shown"] ?? 0) > 0 &&
      !document.querySelector("[role=status]") &&
      !document.querySelector("[role=alert]") &&
      !document.querySelector("[data-unsaved]"),
  );
const openRow = async (row: number): Promise<void> => {
  await page.waitForSelector("[role=grid] [role=row]");
  await page.evaluate((i) => {
    const found = document.querySelectorAll("[role=grid] [role=row]")[i]!.querySelector("a")!;
    found.click();
  }, row);
  await merged();
};

test("the demo shoot comes in whole", async () => {
  await page.goto(`${address.replace(/\/$/, "")}/shoots`);
  const link = await page.waitForSelector("a[href^='/shoots/']");
  await link!.click();
  await page.waitForFunction(
    () =>
      document.body.textContent!.includes("159 frames in 16 stacks") &&
      !/finding the stacks|Bringing in, \d|frames brought in/.test(document.body.textContent!),
  );
});

test.each([
  ["a bracket", 0],
  ["a panorama", 4],
])("%s is merged", async (_, row) => {
  const board = page.url();
  await openRow(row);
  await page.goto(board);
});

test("tone is set, kept over a reload, and the picture is delivered", async () => {
  await openRow(0);
  const field = (await page.waitForSelector("[aria-label='Exposure, EV']"))!;
  await field.click({ count: 3 });
  await field.type("0.5");
  await field.press("Enter");
  await merged();
  await page.reload();
  await merged();
  const kept = await page.$eval(
    "[aria-label='Exposure, EV']",
    (e) => (e as HTMLInputElement).value,
  );
  expect(Number(kept)).toBe(0.5);
  const head = await page.waitForSelector("[data-testid='step deliver']");
  await head!.click();
  const save = await page.waitForSelector("::-p-text(Render and save)");
  await save!.click();
  await eventually(async () => {
    const [name] = (await readdir(downloads)).filter((n) => n.endsWith(".jpg"));
    expect(name).toBeDefined();
    const bytes = await readFile(join(downloads, name!));
    expect([...bytes.subarray(0, 2), ...bytes.subarray(-2)]).toEqual([0xff, 0xd8, 0xff, 0xd9]);
  });
  expect(errors).toEqual([]);
});
