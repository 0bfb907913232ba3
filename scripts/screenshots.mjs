// Takes the pictures of docs/screenshots/ anew, with the demo shoot, on the built application:
// npm run screenshots [NAME...]
import { spawn } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";
import Vips from "wasm-vips";

const FOLDER = "docs/screenshots";
const WAIT_MS = 300000;
/** The guide shows the same pictures smaller. */
const GUIDE_FOLDER = "app/help/pictures";
const GUIDE_WIDTH = 960;
const GUIDE_QUALITY = 82;

const server = spawn(process.execPath, ["build/node/server.js"], {
  env: { ...process.env, PORT: "0" },
  stdio: ["ignore", "pipe", "inherit"],
});
const base = await new Promise((resolve) => {
  server.stdout.on("data", (line) => {
    const found = /http:\S+/.exec(String(line));
    if (found) resolve(found[0]);
  });
});
const profile = await mkdtemp(join(tmpdir(), "rhizome-screenshots-"));
const context = await chromium.launchPersistentContext(profile, {
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  headless: true,
  viewport: { width: 1280, height: 800 },
  args: ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"],
});
context.setDefaultTimeout(WAIT_MS);
const page = context.pages()[0];

const take = (name) => page.screenshot({ path: join(FOLDER, `${name}.png`) });
const grid = () => page.getByRole("grid", { name: "Stacks" });
const node = (name) => page.getByLabel("Recipe").getByRole("button", { name }).first();

/** Waits until the picture shows all that was asked of it, and nothing is under way. */
async function drawn() {
  await page.waitForFunction(
    () =>
      Number(document.querySelector("canvas")?.dataset.shown ?? 0) > 0 &&
      !document.querySelector("canvas[data-pending]") &&
      !document.querySelector("[role=status]"),
  );
  await page.evaluate(
    () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))),
  );
}

async function openBoard() {
  await page.goto(`${base}/shoots`);
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await page.getByText("159 frames in 16 stacks").waitFor();
  await grid().getByRole("row").nth(6).waitFor();
  await page
    .getByText(/finding the stacks|Bringing in, \d|frames brought in/)
    .first()
    .waitFor({ state: "detached" });
}

async function openStack(row) {
  await openBoard();
  await grid().getByRole("row").nth(row).locator("a").first().click();
  await drawn();
  // what is said once, beside the first merge
  const first = page.getByRole("region", { name: "What stands here" });
  if (await first.count()) await first.getByRole("button", { name: "Close" }).click();
}

/** Every picture by its name, in an order in which most stacks are merged when the board is taken. */
const VIEWS = {
  workspace: () => openStack(0),
  wipe: async () => {
    await page.keyboard.press("w");
    await drawn();
  },
  finish: async () => {
    await openStack(0);
    await node(/Finish/).click();
    const box = await page.locator("canvas").first().boundingBox();
    const at = (x, y) => {
      const height = (box.width * 2) / 3;
      return [box.x + box.width * x, box.y + (box.height - height) / 2 + height * y];
    };
    await page.getByRole("button", { name: "Sample", exact: true }).click();
    await page.mouse.click(...at(0.4, 0.16));
    await page.getByRole("checkbox", { name: "Sample is on" }).waitFor();
    await page.keyboard.press("Escape");
    await page.getByRole("slider", { name: "Exposure", exact: true }).focus();
    for (let i = 0; i < 8; i++) await page.keyboard.press("ArrowLeft");
    await page.getByRole("slider", { name: "Contrast", exact: true }).focus();
    for (let i = 0; i < 2; i++) await page.keyboard.press("PageUp");
    await page.keyboard.press("j");
    await page.keyboard.press("j");
    await page.keyboard.press("j");
    await page.mouse.move(4, 4);
    await node(/Finish/).scrollIntoViewIfNeeded();
    const figures = page.getByRole("region", { name: "This part" });
    await figures.getByText(/\d/).first().waitFor();
    await page.locator('canvas[data-sharp="true"]').waitFor();
    await drawn();
  },
  repair: async () => {
    await openStack(1);
    await node(/Repair/).click();
    await page.keyboard.press("h");
    const box = await page.locator("canvas").first().boundingBox();
    const at = (x, y) => {
      const height = (box.width * 2) / 3;
      return [box.x + box.width * x, box.y + (box.height - height) / 2 + height * y];
    };
    for (const [x, y] of [
      [0.2, 0.35],
      [0.42, 0.66],
      [0.6, 0.12],
    ]) {
      await page.mouse.click(...at(x, y));
      await drawn();
    }
    await page.getByText(/px away, found/).waitFor();
    await page.mouse.move(4, 4);
    await drawn();
  },
  straighten: async () => {
    await node(/Edges/).click();
    await page.getByRole("radiogroup", { name: "Upright" }).getByText("Auto").click();
    await page.getByText(/By \d+ edges it was tilted/).waitFor();
    await page.mouse.move(4, 4);
    await drawn();
  },
  looks: async () => {
    await page.keyboard.press("Control+z");
    await drawn();
    await page.keyboard.press("Escape");
    await page.keyboard.press("z");
    await page.keyboard.press("ArrowDown");
    await page.locator("canvas[data-drawn]").nth(5).waitFor();
    await page.getByRole("row", { name: /After sunset/ }).waitFor();
  },
  compare: async () => {
    await page.keyboard.press("Shift+Enter");
    await page.getByRole("button", { name: "Clear rooms", pressed: true }).waitFor();
    await page.keyboard.press("Alt+c");
    await page.locator('canvas[data-drawn="2"]').waitFor();
    await page.getByRole("row", { name: /TMQI 0.* 0/ }).waitFor();
  },
  prepare: async () => {
    await openStack(3);
    await node(/Prepare/).click();
    await drawn();
  },
  panorama: async () => {
    await openStack(10);
    await node(/Panorama/).click();
    await drawn();
  },
  sources: async () => {
    await page.keyboard.press("s");
    await drawn();
  },
  ties: async () => {
    await openStack(4);
    await page.keyboard.press("t");
    await page.getByRole("dialog").locator("canvas[data-shown]").nth(1).waitFor();
  },
  focus: () => openStack(6),
  depth: async () => {
    await page.keyboard.press("s");
    await drawn();
  },
  camera: async () => {
    await page.goto(`${base}/camera`);
    await page.locator("canvas[data-ready]").waitFor();
  },
  board: openBoard,
  deliver: async () => {
    const choose = async (menu, item) => {
      await page.getByRole("button", { name: menu, exact: true }).click();
      await page.getByRole("menuitem", { name: item }).click();
    };
    await choose("Board", "Deliver all");
    for (const name of ["Web", "Print"]) {
      await choose("Add", name);
      await page.getByRole("columnheader", { name }).waitFor();
    }
    const list = page.getByRole("list", { name: "Deliveries" });
    await list.getByRole("button", { name: /^Print/ }).click();
    await page.getByRole("combobox", { name: "Paper" }).click();
    await page.getByRole("option", { name: "30 × 45 cm" }).click();
    const margin = page.getByRole("slider", { name: "Margin" });
    for (let mm = 0; mm < 12; mm++) await margin.press("ArrowRight");
    await page.getByText("41.4 × 27.6").waitFor();
    await page.getByTestId("deliver").click();
    await page.getByText(/[3-9] of 33 files done/).waitFor();
  },
  shelf: async () => {
    await page.getByRole("button", { name: "Stop all" }).click();
    await page.getByRole("button", { name: "Clear", exact: true }).click();
    await page.goto(`${base}/shoots`);
    await page.getByRole("link", { name: /Quillmoor/ }).waitFor();
  },
  storage: async () => {
    await page.goto(`${base}/storage`);
    await page.getByLabel("All shoots").click();
  },
  help: async () => {
    await page.goto(`${base}/help/ghosts`);
    await page.getByRole("heading", { name: "Remove ghosts" }).waitFor();
  },
};

const wanted = process.argv.slice(2);
try {
  for (const [name, show] of Object.entries(VIEWS)) {
    await show();
    if (!wanted.length || wanted.includes(name)) await take(name);
  }
  await makeGuidePictures();
} finally {
  await context.close();
  server.kill();
  await rm(profile, { recursive: true, force: true });
}

/** The pictures that the guide has, made of those that were taken. */
async function makeGuidePictures() {
  const vips = await Vips();
  for (const file of await readdir(GUIDE_FOLDER)) {
    const taken = join(FOLDER, file.replace(/webp$/, "png"));
    const picture = await readFile(taken).catch(() => undefined);
    if (!picture) continue;
    const small = vips.Image.thumbnailBuffer(picture, GUIDE_WIDTH);
    await writeFile(join(GUIDE_FOLDER, file), small.webpsaveBuffer({ Q: GUIDE_QUALITY }));
    small.delete();
  }
}
