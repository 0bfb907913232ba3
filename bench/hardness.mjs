// Ends the browser, fills its storage and ends its workers at random moments of real work, and looks
// whether anything that was saved is lost: node bench/hardness.mjs [kills] [fills] [workers] [seed]
// Needs the built application and Debian's chromium.
import { spawn } from "node:child_process";
import { mkdtemp, readdir, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";

const [kills = 50, fills = 20, workers = 20, seed = 1] = process.argv.slice(2).map(Number);
const FRAMES = "demo/frames";
const ORIGIN = "http://rhizome.localhost";
const STARTED_WITHIN_MS = 60000;
const SHOWN_WITHIN_MS = 120000;
/** An activity is cut after so long at most, ms. */
const LONGEST_MS = 4000;

let state = seed;
/** Numbers from 0 to 1 (mulberry32). */
function random() {
  state = (state + 0x6d2b79f5) | 0;
  let t = Math.imul(state ^ (state >>> 15), 1 | state);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
}
const pause = (ms) => new Promise((later) => setTimeout(later, ms));

const server = spawn(process.execPath, ["build/node/server.js"], {
  env: { ...process.env, PORT: "0" },
  stdio: ["ignore", "pipe", "inherit"],
});
const port = await new Promise((found) =>
  server.stdout.on("data", (line) => {
    const at = /:(\d+)\s*$/m.exec(String(line));
    if (at) found(at[1]);
  }),
);
const profile = await mkdtemp(join(tmpdir(), "rhizome-hardness-"));

/** Starts a browser on the profile, in a process group that can be ended as a whole. */
async function startBrowser() {
  const browser = spawn(
    process.env.CHROMIUM ?? "/usr/bin/chromium",
    [
      "--headless=new",
      "--no-sandbox",
      "--disable-gpu",
      "--disable-dev-shm-usage",
      "--no-first-run",
      "--disable-background-networking",
      "--remote-debugging-port=0",
      `--user-data-dir=${profile}`,
      `--host-resolver-rules=MAP rhizome.localhost:80 127.0.0.1:${port}`,
      "--window-size=1280,800",
      "about:blank",
    ],
    { detached: true, stdio: ["ignore", "ignore", "pipe"] },
  );
  const address = await new Promise((found, failed) => {
    let said = "";
    browser.stderr.on("data", (part) => {
      said += part;
      const at = /DevTools listening on (ws:\S+)/.exec(said);
      if (at) found(at[1]);
    });
    browser.on("exit", () => failed(new Error(`the browser ended: ${said.slice(-400)}`)));
    setTimeout(() => failed(new Error("the browser does not start")), STARTED_WITHIN_MS);
  });
  const connected = await chromium.connectOverCDP(address);
  const context = connected.contexts()[0];
  const page = context.pages()[0] ?? (await context.newPage());
  page.setDefaultTimeout(SHOWN_WITHIN_MS);
  // the demo would come in by itself
  await page.route("**/demo/**", (route) => route.abort());
  const kill = async () => {
    const ended = new Promise((ok) => browser.on("exit", ok));
    process.kill(-browser.pid, "SIGKILL");
    await ended;
    await connected.close().catch(() => undefined);
  };
  return { page, context, kill };
}

/** What the storage holds, and what is wrong with it. */
const audit = (page) =>
  page.evaluate(async () => {
    const wrong = [];
    const open = indexedDB.open("rhizome");
    const d = await new Promise((ok, no) => {
      open.onsuccess = () => ok(open.result);
      open.onerror = () => no(open.error);
    });
    const all = (store, keys = false) =>
      new Promise((ok, no) => {
        const request = d.transaction(store).objectStore(store)[keys ? "getAllKeys" : "getAll"]();
        request.onsuccess = () => ok(request.result);
        request.onerror = () => no(request.error);
      });
    const [shoots, frames, stacks, takes, results] = await Promise.all(
      ["shoots", "frames", "stacks", "takes", "results"].map((store) => all(store)),
    );
    const [keys, blobs] = [await all("originals", true), await all("originals")];
    const originals = new Map(keys.map((key, i) => [key, blobs[i]]));
    const has = (list, id) => list.some((one) => one.id === id);
    for (const { hash, size, shootId, info } of frames) {
      const original = originals.get(hash);
      if (!original) wrong.push(`${info.name} has no file`);
      else if (original.size !== size)
        wrong.push(`${info.name} has ${original.size} of ${size} bytes`);
      if (!has(shoots, shootId)) wrong.push(`${info.name} is in no shoot`);
    }
    const placed = new Set();
    for (const stack of stacks) {
      if (!has(takes, stack.takeId)) wrong.push(`${stack.name} has no take`);
      for (const id of stack.frameIds) {
        if (!has(frames, id)) wrong.push(`${stack.name} misses a frame`);
        if (placed.has(id)) wrong.push(`${stack.name} has a frame of another stack`);
        placed.add(id);
      }
    }
    for (const { picture } of results) {
      const bitmap = await createImageBitmap(picture).catch(() => undefined);
      if (!bitmap) wrong.push("a result is no picture");
      bitmap?.close();
    }
    d.close();
    const ratings = Object.fromEntries(stacks.map(({ id, rating }) => [id, rating]));
    return { wrong, frames: frames.length, stacks: stacks.length, ratings };
  });

const names = (await readdir(FRAMES)).filter((name) => name.endsWith(".jpg")).sort();
const grid = (page) => page.getByRole("grid", { name: "Stacks" });

async function toBoard(page) {
  await page.goto(`${ORIGIN}/shoots`);
  await page
    .getByRole("link", { name: /^Shoot of/ })
    .first()
    .click();
  await grid(page).getByRole("row").first().waitFor();
}

/** What people do; each begins and goes on until it is cut. */
const ACTIVITIES = {
  async bringIn(page) {
    await page.goto(`${ORIGIN}/shoots`);
    const from = Math.floor(random() * (names.length - 12));
    const files = names.slice(from, from + 12).map((name) => join(FRAMES, name));
    await page.getByLabel("Files to bring in").setInputFiles(files);
    await pause(LONGEST_MS);
  },
  async group(page) {
    await toBoard(page);
    for (const key of ["j", "x", "Control+z", "g", "ArrowDown", "o", "Control+z"]) {
      await page.keyboard.press(key);
      await pause(150);
    }
    await pause(LONGEST_MS);
  },
  async merge(page) {
    await toBoard(page);
    await page.keyboard.press("Shift+M");
    await pause(LONGEST_MS);
  },
  async edit(page) {
    await toBoard(page);
    for (let n = 0; n < 20; n++) {
      await page.keyboard.press(String(n % 6));
      await page.keyboard.press(n % 3 ? "ArrowDown" : "ArrowUp");
      await pause(60);
    }
  },
  async deliver(page) {
    await toBoard(page);
    await page.keyboard.press("Shift+D");
    await page.getByTestId("deliver").click();
    await pause(LONGEST_MS);
  },
};
const KINDS = Object.keys(ACTIVITIES);

const failures = [];
const counts = {};
function note(what, kind, wrong) {
  counts[`${what} ${kind}`] = (counts[`${what} ${kind}`] ?? 0) + 1;
  for (const said of wrong) failures.push(`${what} while ${kind}: ${said}`);
  console.error(`${what} while ${kind}: ${wrong.length ? wrong.join("; ") : "all there"}`);
}

/** Looks into the storage after something happened; a page that is gone is opened anew. */
async function look(what, kind, before, wrong = []) {
  try {
    wrong.push(...(await opens(browser.page)));
  } catch (e) {
    wrong.push(`the page is gone: ${e.message.split("\n")[0]}`);
    await browser.kill();
    browser = await startBrowser();
    wrong.push(...(await opens(browser.page)));
  }
  const after = await audit(browser.page);
  if (after.frames < before.frames) wrong.push(`${before.frames - after.frames} frames are lost`);
  note(what, kind, [...wrong, ...after.wrong]);
}

/** Opens every screen that was in use, and says what it says is wrong. */
async function opens(page) {
  await page.goto(`${ORIGIN}/shoots`);
  await page.getByRole("heading", { name: "Shoots", exact: true }).waitFor();
  if (!(await page.getByRole("link", { name: /^Shoot of/ }).count())) return [];
  await toBoard(page);
  const broken = await page.getByText(/could not be read|This did not work/).count();
  return broken ? ["the board says that records cannot be read"] : [];
}

let browser = await startBrowser();
process.on("uncaughtException", async (failure) => {
  console.error(failure);
  await browser.kill();
  server.kill();
  process.exit(2);
});
await browser.page.goto(`${ORIGIN}/shoots`);
await browser.page.getByRole("heading", { name: "Shoots", exact: true }).waitFor();
await browser.page
  .getByLabel("Files to bring in")
  .setInputFiles(names.slice(0, 22).map((name) => join(FRAMES, name)));
await browser.page.getByText("22 frames in").waitFor();

for (let n = 0; n < kills; n++) {
  const kind = KINDS[n % KINDS.length];
  const before = await audit(browser.page);
  const activity = ACTIVITIES[kind](browser.page).catch(() => undefined);
  await pause(300 + random() * LONGEST_MS);
  await browser.kill();
  await activity;
  browser = await startBrowser();
  await look("killed", kind, before);
}

for (let n = 0; n < fills; n++) {
  const kind = KINDS[n % KINDS.length];
  const { page, context } = browser;
  const session = await context.newCDPSession(page);
  const before = await audit(page);
  const activity = ACTIVITIES[kind](page).catch(() => undefined);
  await pause(300 + random() * LONGEST_MS);
  const { usage } = await session.send("Storage.getUsageAndQuota", { origin: ORIGIN });
  await session.send("Storage.overrideQuotaForOrigin", { origin: ORIGIN, quotaSize: usage + 2e4 });
  await activity;
  await pause(1000);
  await session.send("Storage.overrideQuotaForOrigin", { origin: ORIGIN });
  await look("full", kind, before);
}

for (let n = 0; n < workers; n++) {
  const kind = ["bringIn", "merge", "deliver"][n % 3];
  const { page } = browser;
  const before = await audit(page);
  const activity = ACTIVITIES[kind](page).catch(() => undefined);
  await pause(800 + random() * LONGEST_MS);
  const all = page.workers();
  const victim = all[Math.floor(random() * all.length)];
  void victim?.evaluate(() => self.close()).catch(() => undefined);
  await activity;
  // what was under way ends, well or with a reason
  const isBusy = () =>
    page.evaluate(() => /Bringing in, \d|finding the stacks/.test(document.body.innerText));
  const until = Date.now() + SHOWN_WITHIN_MS;
  const wrong = [];
  try {
    while ((await isBusy()) && Date.now() < until) await pause(500);
    if (await isBusy()) wrong.push("bringing in hangs");
  } catch (e) {
    wrong.push(e.message.split("\n")[0]);
  }
  await look("worker ended", kind, before, wrong);
}

await browser.kill();
server.kill();
await rm(profile, { recursive: true, force: true });
console.log(JSON.stringify(counts, null, 1));
for (const failure of failures) console.log(`! ${failure}`);
console.log(`${failures.length} failures`);
process.exit(failures.length ? 1 : 0);
