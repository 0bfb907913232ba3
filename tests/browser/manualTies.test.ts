import { execFileSync } from "node:child_process";
import { copyFile, readFile } from "node:fs/promises";
import { join } from "node:path";
import { inFrame, seen, worldRay, type Camera } from "../../core/panorama/camera";
import { FRAMES, fromMenu, merged, type Running, saved, start } from "./harness";

let r: Running;
const A = "QM_0434.jpg";
const B = "QM_0435.jpg";
beforeAll(async () => {
  r = await start();
  await copyFile(join(FRAMES, A), join(r.dir, A));
  // bright is dark in the second frame: no match of pixels holds it
  execFileSync("convert", [join(FRAMES, B), "-negate", "-quality", "93", join(r.dir, B)]);
});
afterAll(async () => {
  await r?.close();
});

/**
 * The same places in both frames, px, by the cameras that the frames as they were are placed with.
 */
async function placesOfBoth(): Promise<[number, number, number, number][]> {
  const report = join(r.dir, "report.json");
  execFileSync("bin/rhizome", [
    "merge",
    join(FRAMES, A),
    join(FRAMES, B),
    "--as",
    "panorama",
    "--set",
    "panorama.width=800",
    "--out",
    join(r.dir, "out.jpg"),
    "--report",
    report,
  ]);
  const { panorama } = JSON.parse(await readFile(report, "utf8")) as {
    panorama: { frames: Pick<Camera, "rotation" | "focalPx" | "distortion">[] };
  };
  const [ca, cb] = panorama.frames.map((f): Camera => ({ ...f, width: 1440, height: 2160 })) as [
    Camera,
    Camera,
  ];
  const out: [number, number, number, number][] = [];
  for (const y of [500, 1000, 1600])
    for (let x = 1350; x > 0; x -= 50) {
      const p = seen(cb, worldRay(ca, x, y));
      if (p && inFrame(cb, p, 100)) {
        out.push(
          [x, y, p[0], p[1]],
          [x - 250, y + 90, ...seen(cb, worldRay(ca, x - 250, y + 90))!],
        );
        break;
      }
    }
  return out.filter(([, , u, v]) => inFrame(cb, [u, v], 20)).slice(0, 5);
}

test("two frames that nothing holds together are held by ties set manually, and let go by undo", async () => {
  const { page } = r;
  const places = await placesOfBoth();
  expect(places.length).toBeGreaterThan(3);
  await page.goto(`${r.base}/shoots`);
  await page
    .getByLabel("Files to bring in")
    .first()
    .setInputFiles([A, B].map((n) => join(r.dir, n)));
  await page.waitForURL(/shoots\/[^/]+$/);
  await page.getByText("2 of 2 frames brought in").waitFor();
  const rows = page.getByRole("grid", { name: "Stacks" }).getByRole("row");
  await rows.first().locator("p").first().click();
  if ((await rows.count()) > 1) await page.keyboard.press("j");
  await page.waitForFunction(
    () => document.querySelectorAll("[role=grid] [role=row]").length === 1,
  );
  await fromMenu(page, "Stack", "Panorama");
  await page.keyboard.press("Escape");
  await rows.first().locator("a").first().click();
  await page.waitForURL(/shoots\/[^/]+\/[^/]+$/);
  const alert = page.getByRole("alert");
  await alert.getByText("No two of the 2 frames were found to show the same place").waitFor();
  await alert.getByRole("button", { name: "Set ties manually" }).click();
  const dialog = page.getByRole("dialog", { name: "Ties" });
  const list = dialog.getByRole("listbox", { name: "Ties, worst first" });
  for (const i of [0, 1]) await dialog.locator("canvas[data-shown]").nth(i).waitFor();
  await page.keyboard.press("n");
  const click = async (name: string, x: number, y: number): Promise<void> => {
    const pane = dialog.getByLabel(`Frame ${name}`);
    const b = (await pane.boundingBox())!;
    const z = Number(await pane.getAttribute("data-zoom"));
    await page.mouse.click(b.x + b.width / 2 + (x - 720) * z, b.y + b.height / 2 + (y - 1080) * z);
  };
  for (const [k, [x, y, u, v]] of places.entries()) {
    await dialog.getByText("Point at something that both frames show").waitFor();
    await click(A, x, y);
    await dialog.getByText("Now the same thing in the frame on the right").waitFor();
    await click(B, u, v);
    const row = list.getByRole("option").nth(k);
    const keep = dialog.getByRole("button", { name: "Keep as it is" });
    // plain ground may fit all the same
    await keep.or(row).first().waitFor();
    if (await keep.count()) await keep.click();
    if (k === 0) await dialog.getByText("one tie holds no frame").waitFor();
    await row.waitFor();
    // what the ties before say of the cameras is known before the next one is placed
    await saved(page);
    await page.locator("[role=dialog][aria-busy=false]").waitFor();
  }
  await page.keyboard.press("n");
  await dialog.getByText(`${places.length} ties hold 2 of 2 frames`).waitFor();
  // the last one is measured by the joining before until it has been joined with the others
  await list.evaluate(
    (l, count) =>
      new Promise<void>((ok, no) => {
        const until = Date.now() + 60000;
        const look = (): void => {
          const errors = [...l.querySelectorAll("[role=option]")].map((o) =>
            Number(/(\d+\.\d\d) px/.exec(o.textContent ?? "")?.[1]),
          );
          if (errors.length === count && errors.every((e) => e < 12)) ok();
          else if (Date.now() > until) no(new Error(`ties err by ${errors.join(", ")} px`));
          else setTimeout(look, 50);
        };
        look();
      }),
    places.length,
  );
  await page.keyboard.press("Escape");
  await dialog.waitFor({ state: "detached" });
  await merged(page);
  await page.getByText(/2 frames placed/).waitFor();
  for (let k = 1; k < places.length; k++) {
    await page.keyboard.press("Control+z");
  }
  await alert.getByText("one tie holds no frame").waitFor();
  expect(r.errors).toEqual([]);
});
