// The same jobs in headless Chromium, as a user does them: bring in, merge, move a slider, deliver.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";

/**
 * @returns ms by stage for the given frames, and of a slider's steps on a picture of about 1600 x
 *   1000 px
 */
export async function timePage(files) {
  const server = spawn(process.execPath, ["build/node/server.js"], {
    env: { ...process.env, PORT: "0" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  const base = await new Promise((ok) =>
    server.stdout.on("data", (d) => {
      const m = /http:\S+/.exec(String(d));
      if (m) ok(m[0]);
    }),
  );
  const profile = mkdtempSync(join(tmpdir(), "rhizome-bench-page-"));
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    headless: true,
    viewport: { width: 2080, height: 1080 },
    acceptDownloads: true,
    args: ["--no-sandbox", "--disable-gpu"],
  });
  const page = context.pages()[0] ?? (await context.newPage());
  const times = {};
  const timed = async (what, act) => {
    const t = performance.now();
    await act();
    times[what] = Math.round(performance.now() - t);
  };
  const shown = () =>
    page.waitForFunction(
      () =>
        Number(document.querySelector("canvas")?.dataset.shown ?? 0) > 0 &&
        !document.querySelector("[role=status]"),
      null,
      { timeout: 300000 },
    );
  try {
    await page.goto(`${base}/shoots`);
    await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor({ timeout: 120000 });
    const done = page.getByText(new RegExp(`^${files.length} frames in \\d+ stacks?`));
    await timed("bring in and group", async () => {
      await page.getByLabel("Files to bring in").setInputFiles(files);
      await done.waitFor({ timeout: 300000 });
    });
    await page.goto(`${base}/shoots`);
    await done.locator("xpath=ancestor::li").getByRole("link").click();
    await timed("open: read, align, merge at working size, show", async () => {
      await page.locator("[role=grid][aria-label=Stacks] [role=row] a").first().click();
      await shown();
    });
    await timed("merge at full size behind it", () =>
      page.waitForFunction(
        () => !/full size/i.test(document.body.innerText.replace(/.*Render.*/g, "")),
        null,
        { timeout: 300000 },
      ),
    );
    await page.waitForTimeout(12000);
    const box = await page.evaluate(() => {
      const c = document.querySelector("canvas");
      return [c.width, c.height];
    });
    for (const name of ["Exposure", "Strength"]) {
      await page.evaluate(() => performance.clearMeasures());
      await page.getByRole("slider", { name }).first().focus();
      for (let i = 0; i < 24; i++) {
        await page.keyboard.press(i < 12 ? "ArrowRight" : "ArrowLeft");
        await page.waitForTimeout(200);
      }
      const t = (
        await page.evaluate(() =>
          performance.getEntriesByName("rhizome:shown").map((e) => e.duration),
        )
      ).sort((a, b) => a - b);
      times[`slider ${name}, ${box.join(" x ")} px, median`] = Math.round(t[t.length >> 1]);
      times[`slider ${name}, worst of ${t.length}`] = Math.round(t.at(-1));
    }
    await page.getByRole("button", { name: /Deliver (JPEG|16-bit|8-bit)/ }).click();
    await page.getByRole("radio", { name: "TIFF" }).click();
    await timed("deliver as 16-bit TIFF", async () => {
      const d = page.waitForEvent("download", { timeout: 300000 });
      await page.getByRole("button", { name: /Render and save/ }).click();
      await (await d).path();
    });
    return times;
  } finally {
    await context.close();
    server.kill();
    rmSync(profile, { recursive: true, force: true });
  }
}
