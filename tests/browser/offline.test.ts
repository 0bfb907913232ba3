import type { ChildProcess } from "node:child_process";
import { once } from "node:events";
import { demoComplete, eventually, merged, openRow, start, startOn, type Running } from "./harness";

/** Waits until the application is kept in the browser. */
const kept = ({ page }: Running): Promise<unknown> =>
  page.evaluate(async () => {
    const { active } = await navigator.serviceWorker.ready;
    if (active?.state !== "activated")
      await new Promise((ok) => active?.addEventListener("statechange", ok));
  });

async function end(server: ChildProcess): Promise<void> {
  server.kill();
  await once(server, "exit");
}

test("the application starts without its server, and merges", async () => {
  const r = await start();
  try {
    const { page, base } = r;
    await page.goto(`${base}/shoots`);
    await kept(r);
    await end(r.server);
    await page.goto(`${base}/looks`);
    await page.goto(`${base}/shoots`);
    expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
    await page.getByRole("link", { name: /Quillmoor/ }).click();
    await demoComplete(page);
    await openRow(page, 3);
    await merged(page);
    await page.reload();
    await merged(page);
  } finally {
    await r.close();
  }
});

test("a screen that cannot be fetched says so, and the page stays where it is", async () => {
  const r = await startOn(["build/node/server.js"], undefined, { serviceWorkers: "block" });
  try {
    const { page, base } = r;
    await r.context.route(/\/assets\/looks-/, (route) => route.abort());
    await page.goto(`${base}/shoots`);
    await page.getByRole("heading", { name: "Shoots", exact: true }).waitFor();
    await page.getByRole("button", { name: "Screens" }).click();
    await page.getByRole("menuitem", { name: "Looks" }).click();
    await page.getByText(/This screen cannot be fetched/).waitFor();
    expect(page.url()).toBe(`${base}/shoots`);
    await page.getByRole("heading", { name: "Shoots", exact: true }).waitFor();
    await page
      .getByRole("region", { name: /Rhizome/ })
      .getByRole("button")
      .click();
  } finally {
    await r.close();
  }
});

test("a newer version is offered, and taken when the user wants", async () => {
  const r = await startOn(["tests/browser/plainServer.mjs"]);
  try {
    const { page, base } = r;
    await page.goto(base);
    await page.waitForFunction(() => globalThis.crossOriginIsolated, null, { timeout: 180000 });
    await page.getByRole("heading", { name: "Shoots", exact: true }).waitFor();
    expect((await fetch(`${r.address}/publish`)).status).toBe(200);
    await page.reload();
    await page.getByText("A newer Rhizome is ready.", { exact: false }).waitFor();
    const before = await page.evaluate(() => performance.timeOrigin);
    await page.getByRole("button", { name: "Use it now" }).click();
    await eventually(async () => {
      const now = await page.evaluate(() => performance.timeOrigin);
      if (now === before) throw new Error("the page is still the old one");
    });
    await page.getByRole("heading", { name: "Shoots", exact: true }).waitFor();
  } finally {
    await r.close();
  }
});
