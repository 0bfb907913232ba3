// How smooth the application is to use, on the built application:
//   node bench/interface.mjs [workspace | board]
//   slider to picture, ms, at rest and while all stacks are delivered; components rendered again by
//   a slider's step and by a pointer's move; a frame of scrolling a board of 1,000 frames, ms
//   (software rendering).
// BUILD names another checkout whose build is measured instead.
import { spawn } from "node:child_process";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { pathToFileURL } from "node:url";
import { build } from "esbuild";
import { chromium } from "playwright-core";

const checkout = resolve(process.env.BUILD ?? ".");
const FRAMES = 1000;
const STEPS = 40;
/** Between steps of the slider while stacks are delivered: they go on for longer than that. */
const BETWEEN_STEPS_MS = 500;
const SCROLLS = 120;
const SCROLL_PX = 90;

const work = await mkdtemp(join(tmpdir(), "rhizome-interface-"));
const server = spawn(process.execPath, ["build/node/server.js"], {
  cwd: checkout,
  env: { ...process.env, PORT: "0" },
  stdio: ["ignore", "pipe", "inherit"],
});
const base = await new Promise((ok) => {
  server.stdout.on("data", (line) => {
    const found = /http:\S+/.exec(String(line));
    if (found) ok(found[0].replace(/\/$/, ""));
  });
});
const context = await chromium.launchPersistentContext(join(work, "profile"), {
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  headless: true,
  viewport: { width: 1280, height: 800 },
  args: ["--no-sandbox", "--disable-gpu", "--no-first-run"],
});
context.setDefaultTimeout(600000);
const page = context.pages()[0];
// counts the components that each commit rendered again, as React's own tools do
await page.addInitScript(() => {
  globalThis.rendered = 0;
  // below a component that was left alone nothing was rendered
  const visit = (now, before) => {
    if (typeof now.type === "function" && now.flags & 1) globalThis.rendered++;
    if (now.child === before.child) return;
    for (let at = now.child; at; at = at.sibling) if (at.alternate) visit(at, at.alternate);
  };
  globalThis.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
    supportsFiber: true,
    renderers: new Map(),
    inject: () => 1,
    onCommitFiberRoot: (_id, { current }) => current.alternate && visit(current, current.alternate),
    onCommitFiberUnmount: () => undefined,
    onPostCommitFiberRoot: () => undefined,
  };
});

const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
const settled = () =>
  page.waitForFunction(
    () =>
      Number(document.querySelector("canvas")?.dataset.shown ?? 0) > 0 &&
      !document.querySelector("canvas[data-pending]") &&
      !document.querySelector("[role=status]"),
  );
const renderedBy = async (act, times) => {
  await page.evaluate(() => (globalThis.rendered = 0));
  for (let i = 0; i < times; i++) await act(i);
  return (await page.evaluate(() => globalThis.rendered)) / times;
};

/** A step of the slider in focus. @returns ms until the picture shows it */
const sliderToPicture = () =>
  page.evaluate(
    () =>
      new Promise((done) => {
        const canvas = document.querySelector("canvas");
        const before = canvas.dataset.shown;
        const start = performance.now();
        document.activeElement.dispatchEvent(
          new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true, cancelable: true }),
        );
        const look = () =>
          canvas.dataset.shown === before
            ? requestAnimationFrame(look)
            : done(performance.now() - start);
        requestAnimationFrame(look);
      }),
  );

/** Delivers all stacks and, meanwhile, moves a slider of the first one. @returns each step's ms */
async function whileDelivering() {
  await page.goBack();
  await page.getByRole("button", { name: "Board", exact: true }).click();
  await page.getByRole("menuitem", { name: "Deliver all", exact: true }).click();
  await page.getByRole("button", { name: /^Deliver \d+ files$/ }).click();
  await page.goBack();
  await page.getByRole("grid", { name: "Stacks" }).locator("a").first().click();
  await settled();
  await page.getByRole("slider", { name: "Exposure" }).focus();
  const times = [];
  for (let step = 0; step < STEPS; step++) {
    times.push(await sliderToPicture());
    await page.waitForTimeout(BETWEEN_STEPS_MS);
  }
  return times;
}

async function workspace() {
  await page.goto(`${base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await page.getByText("159 frames in 16 stacks").waitFor();
  await page
    .getByText(/finding the stacks|Bringing in, \d|frames brought in/)
    .first()
    .waitFor({ state: "detached" });
  await page.getByRole("grid", { name: "Stacks" }).locator("a").first().click();
  await settled();
  await page.waitForTimeout(4000);
  const box = await page.getByLabel("The picture").boundingBox();
  const moves = await renderedBy(
    (i) => page.mouse.move(box.x + 200 + 4 * i, box.y + 300 + (i % 3)),
    STEPS,
  );
  const times = [];
  await page.getByRole("slider", { name: "Exposure" }).focus();
  const steps = await renderedBy(async () => times.push(await sliderToPicture()), STEPS);
  const delivering = await whileDelivering();
  return {
    "slider to picture, median ms": median(times).toFixed(0),
    "slider to picture, worst ms": Math.max(...times).toFixed(0),
    "the same while stacks are delivered, median ms": median(delivering).toFixed(0),
    "the same while stacks are delivered, worst ms": Math.max(...delivering).toFixed(0),
    "components a slider's step": steps.toFixed(1),
    "components a pointer's move": moves.toFixed(1),
  };
}

async function board() {
  const script = join(work, "shootFiles.mjs");
  await build({
    entryPoints: ["tests/files/shootFiles.ts"],
    outfile: script,
    bundle: true,
    format: "esm",
    platform: "node",
    packages: "external",
  });
  // its packages are found from here
  const local = resolve("build/shootFiles.mjs");
  await writeFile(local, (await import("node:fs")).readFileSync(script));
  const { writeMixedShoot } = await import(pathToFileURL(local).href);
  const { files } = await writeMixedShoot(join(work, "shoot"), FRAMES, 7);
  await page.goto(`${base}/shoots`);
  await page.getByLabel("Files to bring in").setInputFiles(files);
  await page.getByText(/\d+ of \d+ frames brought in/).waitFor();
  const grid = page.getByRole("grid", { name: "Stacks" });
  if (!(await grid.count()))
    await page
      .getByRole("link", { name: /Shoot of/ })
      .first()
      .click();
  await grid.waitFor();
  await page.waitForTimeout(2000);
  const times = await grid.evaluate(
    async (element, { count, px }) => {
      const all = [];
      let last = performance.now();
      for (let i = 0; i < count; i++) {
        element.scrollTop += px;
        await new Promise((next) => requestAnimationFrame(next));
        const now = performance.now();
        all.push(now - last);
        last = now;
      }
      return all;
    },
    { count: SCROLLS, px: SCROLL_PX },
  );
  return {
    "frames on the board": files.length,
    "a frame of scrolling, median ms": median(times).toFixed(1),
    "a frame of scrolling, worst ms": Math.max(...times).toFixed(0),
  };
}

try {
  const wanted = process.argv[2];
  console.table({
    ...(wanted === "board" ? {} : await workspace()),
    ...(wanted === "workspace" ? {} : await board()),
  });
} finally {
  await context.close();
  server.kill();
  await rm(work, { recursive: true, force: true });
}
