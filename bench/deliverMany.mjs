// A whole job delivered in the browser, on the built application:
//   node bench/deliverMany.mjs FOLDER
// FOLDER's frames are brought in and all their stacks delivered in three files each, in one run; time,
// tasks of the page over 50 ms, how long a frame takes meanwhile, and memory of the browser's processes.
import { spawn } from "node:child_process";
import { mkdtemp, readdir, readFile, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { unzipSync } from "fflate";
import { chromium } from "playwright-core";

const [folder] = process.argv.slice(2);
if (!folder) {
  console.error("FOLDER is missing");
  process.exit(2);
}
const LOOK_MS = 2000;
const files = (await readdir(folder)).filter((name) => /\.jpe?g$/i.test(name)).sort();
const profile = await mkdtemp(join(tmpdir(), "rhizome-many-"));
const server = spawn(process.execPath, ["build/node/server.js"], {
  env: { ...process.env, PORT: "0" },
  stdio: ["ignore", "pipe", "inherit"],
});
const base = await new Promise((ok) => {
  server.stdout.on("data", (line) => {
    const found = /http:\S+/.exec(String(line));
    if (found) ok(found[0].replace(/\/$/, ""));
  });
});
const context = await chromium.launchPersistentContext(profile, {
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  headless: true,
  viewport: { width: 1280, height: 800 },
  acceptDownloads: true,
  args: ["--no-sandbox", "--disable-gpu"],
});
context.setDefaultTimeout(3_600_000);
const page = context.pages()[0];
await page.addInitScript(() => {
  globalThis.longTasks = [];
  new PerformanceObserver((list) => {
    for (const { duration } of list.getEntries()) globalThis.longTasks.push(Math.round(duration));
  }).observe({ type: "longtask" });
});

/** Memory of all processes of this browser, MiB: what is theirs alone, and the largest of them. */
async function memory() {
  const shares = [];
  for (const pid of (await readdir("/proc")).filter((name) => /^\d+$/.test(name))) {
    const command = await readFile(`/proc/${pid}/cmdline`, "utf8").catch(() => "");
    if (!command.includes(profile)) continue;
    const text = await readFile(`/proc/${pid}/smaps_rollup`, "utf8").catch(() => "");
    shares.push(Number(/^Pss:\s+(\d+)/m.exec(text)?.[1] ?? 0) / 1024);
  }
  return { all: shares.reduce((a, b) => a + b, 0), largest: Math.max(0, ...shares) };
}

await page.goto(`${base}/shoots`);
await page.getByLabel("Files to bring in").setInputFiles(files.map((name) => join(folder, name)));
const began = performance.now();
const brought = page.getByText(new RegExp(`^${files.length} frames in \\d+ stacks?`));
await brought.waitFor();
console.log(`${files.length} frames brought in: ${Math.round(performance.now() - began)} ms`);
await page.goto(`${base}/shoots`);
await brought.locator("xpath=ancestor::li").getByRole("link").click();
await page.getByRole("grid", { name: "Stacks" }).waitFor();
await page.getByRole("button", { name: "Board", exact: true }).click();
await page.getByRole("menuitem", { name: "Deliver all", exact: true }).click();
for (const name of ["Web", "Print"]) {
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await page.getByRole("menuitem", { name, exact: true }).click();
  await page.getByRole("columnheader", { name }).waitFor();
}
await page.evaluate(() => globalThis.longTasks.splice(0));
const download = page.waitForEvent("download");
const from = performance.now();
await page.getByRole("button", { name: /^Deliver \d+ files$/ }).click();
let isDone = false;
void download.then(() => (isDone = true));
const most = { all: 0, largest: 0 };
const answers = [];
while (!isDone) {
  await new Promise((later) => setTimeout(later, LOOK_MS));
  const now = await memory();
  most.all = Math.max(most.all, now.all);
  most.largest = Math.max(most.largest, now.largest);
  answers.push(
    await page.evaluate(
      () =>
        new Promise((done) => {
          const start = performance.now();
          requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)));
        }),
    ),
  );
}
const seconds = (performance.now() - from) / 1000;
const zip = unzipSync(await readFile(await (await download).path()));
const said = await page.getByRole("region", { name: "Tray" }).textContent();
const tasks = await page.evaluate(() => globalThis.longTasks);
answers.sort((a, b) => a - b);
console.log(
  JSON.stringify(
    {
      seconds: Math.round(seconds),
      filesInZip: Object.keys(zip).length,
      tray: said,
      tasksOver50Ms: tasks.length,
      longestTaskMs: Math.max(0, ...tasks),
      frameMs: {
        median: Math.round(answers[answers.length >> 1]),
        most: Math.round(answers.at(-1)),
      },
      memoryMiB: { all: Math.round(most.all), largest: Math.round(most.largest) },
    },
    null,
    1,
  ),
);
await context.close();
server.kill();
await rm(profile, { recursive: true, force: true });
