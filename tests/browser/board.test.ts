/* eslint-disable max-lines -- one shoot of 300 frames is brought in once, and every edit is tried on it */
import { execFileSync } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { zipSync } from "fflate";
import type { Page } from "playwright-core";
import { writeMixedShoot } from "../files/shootFiles";
import { choose, eventually, fromMenu, type Running, start } from "./harness";

let r: Running;
let files: string[];
beforeAll(async () => {
  r = await start();
  ({ files } = await writeMixedShoot(join(r.dir, "day"), 300, 77));
});
afterAll(async () => {
  await r?.close();
});

const grid = (page: Page = r.page) => page.getByRole("grid", { name: "Stacks" });
const row = (i: number, page: Page = r.page) => grid(page).getByRole("row").nth(i);
const names = (i: number, page: Page = r.page) =>
  row(i, page)
    .locator("[data-frame]")
    .evaluateAll((f) => f.map((x) => (x as HTMLElement).dataset["frame"]!.slice(3, 7)));
const count = async (page: Page = r.page): Promise<number> =>
  Number(await grid(page).getAttribute("aria-rowcount"));
/** Waits until something about the board is so. */
const until = (what: () => Promise<boolean>): Promise<void> =>
  eventually(async () => {
    if (!(await what())) throw new Error("the board is not as expected");
  });
/**
 * Does something, sees that it changed the first rows, undoes it over a reload, and sees that they
 * are as before.
 */
async function undone(act: () => Promise<void>, so: () => Promise<boolean>): Promise<void> {
  const before = JSON.stringify([await count(), await names(0), await names(1)]);
  await act();
  await until(so);
  await r.page.reload();
  await grid().waitFor();
  await until(so);
  await r.page.keyboard.press("Control+z");
  await until(
    async () =>
      JSON.stringify([await count(), await names(0), await names(1)]) === before && !(await so()),
  );
}
/** The place of the first bracket's row, whose frames stand by their exposures. */
const bracketAt = async (): Promise<number> =>
  (
    await grid()
      .getByRole("row")
      .evaluateAll((rows) => rows.map((e) => e.textContent ?? ""))
  ).findIndex((t) => t.includes("exposures"));
const isReference = async (k: number, i: number): Promise<boolean> =>
  /ref/.test((await row(k).locator("[data-frame] p").nth(i).textContent())!);
const key = (k: string): Promise<void> => r.page.keyboard.press(k);
const toTop = async (): Promise<void> => {
  await row(0).locator("p").first().click();
};

test("300 frames come in while the page is used; the stacks are those of the command line", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page.getByRole("heading", { name: "Quillmoor Observatory" }).waitFor({ timeout: 180000 });
  await page.evaluate(() => {
    const w = window as { gaps?: number[]; last?: number };
    const tick = (t: number): void => {
      if (w.last) (w.gaps ??= []).push(t - w.last);
      w.last = t;
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  });
  await page.getByLabel("Files to bring in").setInputFiles(files);
  await page.getByText(/Bringing in, [1-9]\d* of 3\d\d/).waitFor({ timeout: 180000 });
  await page
    .getByRole("link", { name: /Quillmoor/ })
    .first()
    .click();
  await grid().waitFor();
  await key("ArrowDown");
  await choose(page, "Order", "By name");
  expect(await row(0).getAttribute("aria-selected")).not.toBeNull();
  const summary = page.getByText(/\d+ of \d+ frames brought in/);
  await summary.waitFor({ timeout: 240000 });
  expect(await summary.textContent()).toContain(
    `${files.length} of ${files.length} frames brought in`,
  );
  const gaps = await page.evaluate(() =>
    (window as { gaps?: number[] })
      .gaps!.sort((a, b) => b - a)
      .slice(0, 5)
      .map(Math.round),
  );
  process.stdout.write(
    `while frames come in, the longest gaps between pictures: ${gaps.join(", ")} ms\n`,
  );
  await page.goto(`${r.base}/shoots`);
  await page
    .getByRole("link", { name: /Shoot of/ })
    .first()
    .click();
  await grid().waitFor();
  const cli = JSON.parse(
    execFileSync("bin/rhizome", ["group", join(r.dir, "day"), "--json"], {
      encoding: "utf8",
      maxBuffer: 1e8,
    }),
  ) as { kind: string; frames: string[] }[];
  expect(await count()).toBe(cli.length);
  expect(await names(0)).toEqual(cli[0]!.frames.map((f) => f.slice(3, 7)));
}, 1000000);

test("frames that are in already are recognised; a zip is opened", async () => {
  const { page } = r;
  const zip = join(r.dir, "card.zip");
  await writeFile(
    zip,
    zipSync({
      "DCIM/a.jpg": new Uint8Array(await readFile(files[0]!)),
      "notes.txt": new Uint8Array([65]),
      "DCIM/b.jpg": new Uint8Array(await readFile(files[1]!)),
    }),
  );
  await page.getByLabel("Files to bring in").setInputFiles(zip);
  await page
    .getByText("0 of 2 frames brought in, 2 were here already")
    .waitFor({ timeout: 180000 });
  await page.getByRole("button", { name: "Close", exact: true }).click();
});

test("each edit by keyboard, over a reload, and undone", async () => {
  await toTop();
  const first = await names(0);
  const second = await names(1);
  const rows = await count();
  const more = first.length > 2;
  expect(more).toBe(true);
  await undone(
    async () => {
      await toTop();
      await key("ArrowRight");
      await key("x");
    },
    async () => (await count()) === rows + 1 && (await names(0)).length === 1,
  );
  await undone(
    async () => {
      await toTop();
      await key("j");
    },
    async () => (await names(0)).join() === [...first, ...second].join(),
  );
  await undone(
    async () => {
      await toTop();
      await key("ArrowRight");
      await key("o");
    },
    async () => (await count()) === rows + 1 && (await names(1)).join() === first[1],
  );
  await undone(
    async () => {
      await toTop();
      await key("Alt+ArrowDown");
    },
    async () => (await names(1)).includes(first[0]!),
  );
  await undone(
    async () => {
      await toTop();
      await key("Alt+ArrowRight");
    },
    async () => (await names(0))[1] === first[0],
  );
  await undone(
    async () => {
      await toTop();
      await key("4");
    },
    async () => (await row(0).getByLabel("Rating 4 of 5").count()) === 1,
  );
  await undone(
    async () => {
      await toTop();
      await key("d");
    },
    async () => row(0).getByRole("checkbox").isChecked(),
  );
  await undone(
    async () => {
      await toTop();
      await key("ArrowRight");
      await key("l");
    },
    async () => (await row(0).locator("[data-frame] p", { hasText: "out" }).count()) === 1,
  );
  const k = await bracketAt();
  await undone(
    async () => {
      await row(k).locator("p").first().click();
      await key("r");
    },
    () => isReference(k, 0),
  );
  await undone(
    async () => {
      await toTop();
      await key("ArrowRight");
      await key("v");
    },
    async () =>
      (await row(0)
        .getByAltText(/^Cover of/)
        .count()) === 1,
  );
  await undone(
    async () => {
      await toTop();
      await r.page.getByRole("button", { name: "Stack", exact: true }).focus();
      await key("Enter");
      await r.page.getByRole("menuitem", { name: "Panorama" }).press("Enter");
    },
    async () => (await row(0).textContent())!.includes("Panorama, put together"),
  );
  await undone(
    async () => {
      await toTop();
      await r.page.getByRole("button", { name: "Stack", exact: true }).focus();
      await key("Enter");
      await r.page.getByRole("menuitem", { name: "Cut into sets…" }).press("Enter");
      await r.page.getByLabel("Frames a set").fill("1");
      await key("Enter");
    },
    async () => (await count()) === rows + first.length - 1,
  );
  await undone(
    async () => {
      await toTop();
      await key("Shift+ArrowDown");
      await key("n");
    },
    async () => (await row(0).getByLabel("Open the nested stack").count()) === 1,
  );
  // and un-nested: undone twice
  await toTop();
  await key("Shift+ArrowDown");
  await key("n");
  await row(0).getByLabel("Open the nested stack").waitFor();
  await undone(
    async () => {
      await toTop();
      await key("u");
    },
    async () =>
      (await row(0).getByLabel("Open the nested stack").count()) === 0 && (await count()) === rows,
  );
  await key("Control+z");
  await until(async () => (await count()) === rows && (await names(0)).join() === first.join());
}, 1000000);

test("each edit by mouse, over a reload, and undone", async () => {
  const { page } = r;
  const first = await names(0);
  const second = await names(1);
  const rows = await count();
  const frame = (i: number) => row(0).locator("[data-frame]").nth(i);
  const onFrame = async (i: number, what: string): Promise<void> => {
    await frame(i).click();
    await fromMenu(page, "Frame", what);
  };
  const both = async (): Promise<void> => {
    await toTop();
    await row(1)
      .locator("p")
      .first()
      .click({ modifiers: ["Shift"] });
  };
  await undone(
    () => onFrame(1, "Cut before it"),
    async () => (await count()) === rows + 1 && (await names(0)).length === 1,
  );
  await undone(
    () => onFrame(1, "Take out"),
    async () => (await count()) === rows + 1 && (await names(1)).join() === first[1],
  );
  await undone(
    () => onFrame(1, "Leave out or use again"),
    async () => (await row(0).locator("[data-frame] p", { hasText: "out" }).count()) === 1,
  );
  const k = await bracketAt();
  await undone(
    async () => {
      await row(k).locator("[data-frame]").first().click();
      await fromMenu(page, "Frame", "Make it the reference");
    },
    () => isReference(k, 0),
  );
  await undone(
    () => onFrame(1, "Make it the cover"),
    async () =>
      (await row(0)
        .getByAltText(/^Cover of/)
        .count()) === 1,
  );
  await undone(
    () => onFrame(0, "Move later"),
    async () => (await names(0))[1] === first[0],
  );
  await undone(
    async () => {
      await both();
      await fromMenu(page, "Stack", "Join");
    },
    async () => (await names(0)).join() === [...first, ...second].join(),
  );
  await undone(
    async () => {
      await both();
      await fromMenu(page, "Stack", "Nest");
    },
    async () => (await row(0).getByLabel("Open the nested stack").count()) === 1,
  );
  await undone(
    async () => {
      await toTop();
      await fromMenu(page, "Mark", "★★★");
    },
    async () => (await row(0).getByLabel("Rating 3 of 5").count()) === 1,
  );
  await undone(
    async () => {
      await row(0).getByRole("checkbox").click();
    },
    async () => row(0).getByRole("checkbox").isChecked(),
  );
  await undone(
    async () => {
      const a = (await frame(0).boundingBox())!;
      const b = (await frame(3).boundingBox())!;
      await page.mouse.move(a.x + 20, a.y + 20);
      await page.mouse.down();
      await page.mouse.move(a.x + 40, a.y + 22, { steps: 3 });
      await page.mouse.move(b.x + 10, b.y + 20, { steps: 6 });
      await page.locator("[data-over]").waitFor();
      await page.mouse.up();
    },
    async () => (await names(0)).slice(0, 3).join() === [first[1], first[2], first[0]].join(),
  );
  await undone(
    async () => {
      await toTop();
      await fromMenu(page, "Stack", "Panorama");
    },
    async () => (await row(0).textContent())!.includes("Panorama, put together"),
  );
  await undone(
    async () => {
      await toTop();
      await fromMenu(page, "Mark", "Check");
    },
    async () => (await row(0).getByText("check", { exact: true }).count()) === 1,
  );
  await undone(
    async () => {
      await toTop();
      await fromMenu(page, "Stack", "Note");
      const note = page.getByLabel("Note", { exact: true });
      await note.fill("window open");
      await note.press("Enter");
    },
    async () => (await row(0).getByText("window open").count()) === 1,
  );
  await undone(
    async () => {
      await toTop();
      await fromMenu(page, "Stack", "Cut into sets…");
      await page.getByLabel("Frames a set").fill("1");
      await page.getByRole("button", { name: "Cut", exact: true }).click();
    },
    async () => (await count()) === rows + first.length - 1,
  );
  await undone(
    async () => {
      const a = (await row(0).locator("[data-frame]").first().boundingBox())!;
      const b = (await row(1).boundingBox())!;
      await page.mouse.move(a.x + 20, a.y + 20);
      await page.mouse.down();
      await page.mouse.move(a.x + 40, a.y + 40, { steps: 3 });
      await page.mouse.move(b.x + 900, b.y + 50, { steps: 6 });
      await page.mouse.up();
    },
    async () => (await names(1)).includes(first[0]!),
  );
}, 1000000);

test("what stands in one row of a panorama is selected together", async () => {
  const { page } = r;
  await choose(page, "Kind", "Panoramas");
  await until(async () => (await row(0).locator("[data-frame]").count()) > 2);
  await row(0).locator("[data-frame]").first().click();
  await key("w");
  await until(async () => (await row(0).locator("img[class*=outline-ink]").count()) > 0);
  const picked = (await row(0).locator("img[class*=outline-ink]").count()) + 1;
  expect(picked).toBeGreaterThan(1);
  expect(picked).toBeLessThanOrEqual(await row(0).locator("[data-frame]").count());
  await key("Escape");
  await page.getByRole("button", { name: /^Show all/ }).click();
});

test("filters show what they say; the peek steps through a stack and keeps its zoom", async () => {
  const { page } = r;
  const all = await count();
  await choose(page, "Kind", "Panoramas");
  await until(async () => (await count()) < all && (await count()) > 0);
  await page.getByRole("button", { name: /^Show all/ }).click();
  await toTop();
  await key(" ");
  const dialog = page.getByRole("dialog");
  await dialog.getByText("1 of").waitFor();
  const fitting = await dialog.getByText(/^\d+ %$/).textContent();
  await page.mouse.move(500, 300);
  await page.mouse.wheel(0, -60);
  await until(async () => (await dialog.getByText(/^\d+ %$/).textContent()) !== fitting);
  const zoom = (await dialog.getByText(/^\d+ %$/).textContent())!;
  await key("ArrowRight");
  await dialog.getByText("2 of").waitFor();
  expect(await dialog.getByText(/^\d+ %$/).textContent()).toBe(zoom);
  expect(
    await dialog.getByRole("img").evaluate((e) => e.getBoundingClientRect().width),
  ).toBeGreaterThan(1280);
  await key(" ");
  await dialog.waitFor({ state: "detached" });
});

test("two tabs agree", async () => {
  const other = await r.context.newPage();
  await other.goto(r.page.url());
  await grid(other).waitFor();
  await toTop();
  await key("5");
  await row(0, other).getByLabel("Rating 5 of 5").waitFor({ timeout: 10000 });
  await other.close();
  await key("Control+z");
});

test("a page closed while frames come in keeps every frame it said was in, and they are in stacks", async () => {
  const { page } = r;
  await page.goto(`${r.base}/shoots`);
  await page.getByLabel("Files to bring in").setInputFiles(files.slice(0, 120).map((f) => f));
  let total = 0;
  await page.getByText(/Bringing in, [2-9]\d of 120/).waitFor({ timeout: 180000 });
  total = Number(
    /Bringing in, (\d+) of/.exec(
      (await page.getByLabel("Bringing in", { exact: true }).first().textContent())!,
    )![1],
  );
  await page.goto("about:blank");
  await page.goto(`${r.base}/shoots`);
  await page
    .getByRole("link", { name: /Shoot of/ })
    .first()
    .click();
  await grid().waitFor({ timeout: 180000 });
  await until(async () => {
    const t = /(\d+) frames in (\d+) stacks/.exec((await page.locator("header").textContent())!);
    return Number(t?.[1]) >= total - 3 && Number(t?.[2]) > 1;
  });
  expect(r.errors.filter((e) => !/aborted|Failed to fetch/.test(e))).toEqual([]);
  expect(r.foreign).toEqual([]);
});
