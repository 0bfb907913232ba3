import { spawn, type ChildProcess } from "node:child_process";
import { cp, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium, type BrowserContext, type Locator, type Page } from "playwright-core";
import type { StepName } from "../../pipeline/registry";

export const ROOT = process.cwd();
export const FRAMES = join(ROOT, "demo/frames");

export interface Running {
  base: string;
  server: ChildProcess;
  /** of the server itself, without the name that the browser knows it by */
  address: string;
  page: Page;
  context: BrowserContext;
  errors: string[];
  foreign: string[];
  dir: string;
  close(): Promise<void>;
}

/**
 * A profile into which the demo shoot was brought in; set by `demoProfile.ts` for all test files.
 */
export const DEMO_PROFILE = "RHIZOME_DEMO_PROFILE";
/**
 * What the browser takes the server for, whichever port it has: data belong to an origin, and
 * profiles are copied.
 */
const BASE = "http://rhizome.localhost";

/**
 * Starts the built server and a Chromium on it that has the demo shoot; collects what goes wrong
 * and what leaves the machine.
 */
export function start(): Promise<Running> {
  return startOn(["build/node/server.js"], process.env[DEMO_PROFILE]);
}

/** The same on a touch screen. */
export const startTouch = (viewport: { width: number; height: number }): Promise<Running> =>
  startOn(["build/node/server.js"], process.env[DEMO_PROFILE], { viewport, hasTouch: true });

/** The same with nothing in the browser yet, as at the first visit. */
export function startFresh(): Promise<Running> {
  return startOn(["build/node/server.js"]);
}

/** The address that a server prints as its first line. */
function addressOf(server: ChildProcess): Promise<string> {
  return new Promise((resolve, reject) => {
    server.stdout!.on("data", (line: Buffer) => {
      const found = /http:\S+/.exec(String(line));
      if (found) resolve(found[0]);
    });
    server.on("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
}

/** Starts a server: a script for Node, with its arguments, that prints its address. */
export async function startServer(
  script: string[] = ["build/node/server.js"],
): Promise<{ server: ChildProcess; address: string }> {
  const server: ChildProcess = spawn(process.execPath, script, {
    cwd: ROOT,
    env: { ...process.env, PORT: "0" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  return { server, address: await addressOf(server) };
}

/**
 * The same on another server.
 *
 * @param script   a script for Node, with its arguments, that prints its address
 * @param profile  folder of a browser profile to begin with a copy of
 * @param options  of the screen; a touch screen has neither mouse nor hover
 */
export async function startOn(
  script: string[],
  profile?: string,
  options: {
    viewport?: { width: number; height: number };
    hasTouch?: boolean;
    /** as in a browser that keeps nothing for when the server is gone */
    serviceWorkers?: "block";
  } = {},
): Promise<Running> {
  const { server, address } = await startServer(script);
  const { port } = new URL(address);
  const base = BASE;
  const dir = await mkdtemp(join(tmpdir(), "rhizome-test-"));
  if (profile) await cp(profile, join(dir, "profile"), { recursive: true });
  const context = await chromium.launchPersistentContext(join(dir, "profile"), {
    executablePath: process.env["CHROMIUM"] ?? "/usr/bin/chromium",
    headless: true,
    viewport: { width: 1280, height: 800 },
    ...(options.hasTouch ? { isMobile: true } : {}),
    ...options,
    acceptDownloads: true,
    args: [
      "--no-sandbox",
      "--disable-gpu",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
      `--host-resolver-rules=MAP ${new URL(base).host}:80 127.0.0.1:${port}`,
    ],
  });
  const page = context.pages()[0] ?? (await context.newPage());
  context.setDefaultTimeout(120000);
  const errors: string[] = [];
  const foreign: string[] = [];
  page.on("pageerror", (e) => errors.push(e.message));
  page.on("console", (m) => {
    if (m.type() === "error") errors.push(m.text());
  });
  page.on("request", (r) => {
    if (!r.url().startsWith(base) && !/^(blob|data):/.test(r.url())) foreign.push(r.url());
  });
  return {
    base,
    server,
    address,
    page,
    context,
    errors,
    foreign,
    dir,
    close: async () => {
      await context.close();
      server.kill();
      await rm(dir, { recursive: true, force: true });
    },
  };
}

/** Waits, on the board of the demo shoot, until all of it is there and in its stacks. */
export async function demoComplete(page: Page): Promise<void> {
  await page.getByText("159 frames in 16 stacks").waitFor({ timeout: 180000 });
  await page.getByRole("grid", { name: "Stacks" }).getByRole("row").nth(6).waitFor();
  // the last frames are in before the last grouping is done; a page left before that brings the
  // demo in again
  await page
    .getByText(/finding the stacks|Bringing in, \d|frames brought in/)
    .first()
    .waitFor({ state: "detached", timeout: 180000 });
}

/** Opens the stack at a place of the board; only rows that are seen are there. */
export async function openRow(page: Page, row: number): Promise<void> {
  const grid = page.getByRole("grid", { name: "Stacks" });
  const link = grid.locator(`[role=row][aria-rowindex="${row + 1}"] a`).first();
  await eventually(async () => {
    await grid.evaluate(
      (e, share) => {
        const content = e.firstElementChild as HTMLElement;
        e.scrollTop = content.offsetHeight * share - e.clientHeight / 2;
      },
      row / Number(await grid.getAttribute("aria-rowcount")),
    );
    await link.click({ timeout: 2000 });
  });
}

/** Opens a stack of the demo shoot by its place on the board, and waits until it is merged. */
export async function openDemoStack({ page, base }: Running, row: number): Promise<void> {
  await page.goto(`${base}/shoots`);
  await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor({ timeout: 180000 });
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  await openRow(page, row);
  await merged(page);
}

/** Waits until the stack on screen is merged and its picture shown. */
export async function merged(page: Page): Promise<void> {
  await page.waitForFunction(
    () =>
      Number(document.querySelector("canvas")?.dataset["shown"] ?? 0) > 0 &&
      !document.querySelector("[role=status]") &&
      !document.querySelector("[role=alert]"),
    null,
    { timeout: 300000 },
  );
}

/** Opens the controls of a step, where they are not open already. */
export async function openStep(page: Page, step: StepName): Promise<void> {
  const head = page.getByTestId(`step ${step}`);
  if ((await head.getAttribute("aria-expanded")) === "false") await head.click();
}

/** Chooses a value of a setting, whether its choices stand in a row or in a list that opens. */
export async function choose(
  within: Page | Locator,
  setting: string,
  value: string | RegExp,
): Promise<void> {
  const cells = within.getByRole("radiogroup", { name: setting, exact: true });
  const list = within.getByRole("combobox", { name: setting, exact: true });
  await cells.or(list).waitFor();
  if (await cells.count()) {
    await cells.getByRole("radio", { name: value, exact: true }).click();
    return;
  }
  await list.click();
  const page = "page" in within ? within.page() : within;
  await page.getByRole("option", { name: value, exact: true }).click();
}

/** Does something from a menu. */
export async function fromMenu(page: Page, menu: string, action: string): Promise<void> {
  await page.getByRole("button", { name: menu, exact: true }).click();
  await page.getByRole("menuitem", { name: action, exact: true }).click();
}

/** Mean of the canvas' pixels R, G, B over a part of it, in shares of its size. */
export function mean(
  page: Page,
  part: { x: number; y: number; w: number; h: number } = { x: 0.3, y: 0.35, w: 0.4, h: 0.3 },
): Promise<number[]> {
  return page.evaluate((p) => {
    const c = document.querySelector("canvas")!;
    const d = c
      .getContext("2d")!
      .getImageData(c.width * p.x, c.height * p.y, c.width * p.w, c.height * p.h).data;
    const sum = [0, 0, 0];
    for (let i = 0; i < d.length; i++) if (i % 4 < 3) sum[i % 4]! += d[i]!;
    return sum.map((v) => v / (d.length / 4));
  }, part);
}

/** Runs something that changes the picture, and waits until it is shown. */
export async function shownAfter(page: Page, act: () => Promise<unknown>): Promise<void> {
  const before = Number(await page.locator("canvas").first().getAttribute("data-shown"));
  await act();
  await page.waitForFunction(
    (b) => Number(document.querySelector("canvas")?.dataset["shown"] ?? 0) > b,
    before,
    { timeout: 180000 },
  );
  await drawn(page);
}

/** Waits until the picture shows all that was asked of it so far. */
export async function drawn(page: Page): Promise<void> {
  await page.evaluate(
    () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))),
  );
  await page.waitForFunction(() => !document.querySelector("canvas[data-pending]"), null, {
    timeout: 180000,
  });
}

/** Waits until every change that was made is in the database. */
export async function saved(page: Page): Promise<void> {
  await page.evaluate(
    () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))),
  );
  await page.waitForFunction(() => !document.querySelector("[data-unsaved]"), null, {
    timeout: 180000,
  });
}

/** Waits until every change is stored and everything that follows from it is done and shown. */
export async function settled(page: Page): Promise<void> {
  await saved(page);
  await page.waitForFunction(
    () =>
      !document.querySelector("[role=status]") &&
      !document.querySelector("[aria-label='The view as it will be'] svg"),
    null,
    { timeout: 180000 },
  );
  await drawn(page);
}

/**
 * How long something that will come may take on a busy machine, ms; and how often it is looked for.
 */
const EVENTUALLY_MS = 120000;
const LOOK_MS = 100;

/** Repeats checks until they hold. @throws what the last of them threw, when they never do */
export async function eventually(check: () => Promise<unknown>): Promise<void> {
  for (const start = Date.now(); ;) {
    try {
      await check();
      return;
    } catch (failure) {
      if (Date.now() - start > EVENTUALLY_MS) throw failure;
      await new Promise((later) => setTimeout(later, LOOK_MS));
    }
  }
}

/** A number that changes with any pixel of a canvas: of the picture, with what is drawn over it. */
export const fingerprint = (
  page: Page,
  canvas: Locator = page.locator("canvas").first(),
): Promise<number> =>
  canvas.evaluate((c: HTMLCanvasElement) => {
    const { data } = c.getContext("2d")!.getImageData(0, 0, c.width, c.height);
    let sum = 0;
    for (let i = 0; i < data.length; i++) sum = (sum * 31 + data[i]!) % 4294967291;
    return sum;
  });

/** A place of a whole picture of 3:2 on screen, by shares of it. */
export async function placeOn(page: Page, x: number, y: number): Promise<[number, number]> {
  const box = (await page.locator("canvas").first().boundingBox())!;
  const height = (box.width * 2) / 3;
  return [box.x + box.width * x, box.y + (box.height - height) / 2 + height * y];
}

/** Drags over the picture from place to place, shares of it. */
export async function dragOver(
  page: Page,
  points: readonly (readonly [number, number])[],
): Promise<void> {
  const { mouse } = page;
  await mouse.move(...(await placeOn(page, ...points[0]!)));
  await mouse.down();
  for (const point of points.slice(1))
    await mouse.move(...(await placeOn(page, ...point)), { steps: 4 });
  await mouse.up();
}
