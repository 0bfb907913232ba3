import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { copyFile, mkdir, readFile, readdir, rm, stat } from "node:fs/promises";
import { basename, join } from "node:path";
import { bedroom, ownFolder, run } from "../../tests/cli/calls";
import { hasQueueServer, OwnQueue, Running, until } from "../../tests/cli/redis";
import { writeBracketedSweep } from "../../tests/files/bracketedSweep";
import { writeSmallBrackets } from "../../tests/files/smallBrackets";

const { path } = ownFolder();
const LOCK = ["--lock", "3"];

/** The pictures in a folder of results, by the sums of what they hold. */
async function results(folder: string): Promise<Map<string, string>> {
  const names = (await readdir(folder)).filter((name) => name.endsWith(".jpg"));
  const files = names.map(async (name): Promise<[string, string]> => [
    name,
    createHash("sha256")
      .update(await readFile(join(folder, name)))
      .digest("hex"),
  ]);
  return new Map(await Promise.all(files));
}

// where the server is missing, these are left out by name
(hasQueueServer ? describe : describe.skip)("a batch over a queue", () => {
  const queue = new OwnQueue();
  const workers: Running[] = [];
  const metrics = 20_000 + (process.pid % 20_000);
  let url = "";
  const worker = (...how: string[]): Running => {
    const own = new Running("work", "--queue", url, "--threads", "1", ...LOCK, ...how);
    workers.push(own);
    return own;
  };
  const queueIs = async (doing: string): Promise<string> => {
    const done = await run("queue", doing, "--queue", url);
    expect(done).toMatchObject({ code: 0, err: "" });
    return done.out;
  };
  const overQueue = (folder: string, out: string, ...how: string[]): Running =>
    new Running("batch", folder, "--out", out, "--queue", url, ...how);

  let folder = "";
  let alone = new Map<string, string>();
  const COUNT = 4;
  beforeAll(async () => {
    await queue.start();
    folder = path("job");
    await writeSmallBrackets(folder, COUNT);
    const done = await run("batch", folder, "--out", path("alone"));
    expect(done).toMatchObject({ code: 0, err: "" });
    alone = await results(path("alone"));
    expect(alone.size).toBe(COUNT);
    url = queue.url;
    worker("--name", "a", "--metrics", String(metrics));
    worker("--name", "b");
  });
  afterAll(async () => {
    await Promise.all(workers.map((own) => own.kill()));
    await queue.end();
  });

  test("gives the bytes of one process, each once, and sums that hold", async () => {
    const out = path("two");
    const log = path("two.jsonl");
    const batch = overQueue(folder, out, "--log", log, "--due", "23:59");
    expect(await batch.end()).toBe(0);
    expect(batch.out.match(/^merged\t/gm)).toHaveLength(COUNT);
    expect(await results(out)).toEqual(alone);
    execFileSync("sha256sum", ["--check", "--quiet", "SHA256SUMS"], { cwd: out });
    const lines = (await readFile(log, "utf8")).trim().split("\n");
    const summary = JSON.parse(lines.at(-1)!) as Record<string, unknown>;
    expect(summary).toMatchObject({ state: "summary", jobs: COUNT, merged: COUNT, failed: 0 });
    const counted = await (await fetch(`http://127.0.0.1:${metrics}/metrics`)).text();
    expect(counted).toMatch(/^rhizome_jobs_total\{state="merged"\} [1-4]$/m);
    expect(counted).toMatch(/^rhizome_stage_seconds_count\{stage="merge"\} [1-4]$/m);

    // the same again makes nothing, by what was noted, and with --resume by what is there
    const [lost, other] = [...alone.keys()] as [string, string];
    const before = await stat(join(out, other));
    const again = overQueue(folder, out);
    expect(await again.end()).toBe(0);
    expect(again.out.match(/^kept\t/gm)).toHaveLength(COUNT);
    await rm(join(out, lost));
    const resumed = overQueue(folder, out, "--resume");
    expect(await resumed.end()).toBe(0);
    expect(resumed.out.match(/^kept\t/gm)).toHaveLength(COUNT - 1);
    expect(resumed.out).toMatch(new RegExp(`^merged\\t.*${lost}`, "m"));
    expect(await results(out)).toEqual(alone);
    expect((await stat(join(out, other))).mtimeMs).toBe(before.mtimeMs);
  });

  test("goes on when a worker is killed and when the queue is killed, with and without its data", async () => {
    const out = path("killed");
    const batch = overQueue(folder, out);
    await until(async () => (await queueIs("status")).includes("at work\t"));
    await workers.shift()!.kill();
    await queue.kill();
    await queue.start();
    worker("--name", "c");
    await until(() => batch.out.includes("merged"));
    await queue.kill();
    await queue.forget();
    await queue.start();
    expect(await batch.end()).toBe(0);
    expect(batch.err).toContain("is back");
    expect(await results(out)).toEqual(alone);
  });

  test("sets a job aside after three tries, by its reason, and does the others", async () => {
    const own = path("poisoned");
    await mkdir(own);
    for (const name of await readdir(folder)) await copyFile(join(folder, name), join(own, name));
    const out = path("poisoned-out");
    await queueIs("pause");
    const batch = overQueue(own, out);
    await until(async () => (await queueIs("status")).startsWith(`${COUNT} waiting`));
    const gone = (await readdir(own)).sort()[0]!;
    await rm(join(own, gone));
    // a folder is where a file is to be
    const blocked = [...alone.keys()].sort()[1]!;
    await mkdir(join(out, blocked), { recursive: true });
    await queueIs("resume");
    expect(await batch.end()).toBe(1);
    expect(batch.out.match(/^merged\t/gm)).toHaveLength(COUNT - 2);
    expect(batch.out).toMatch(new RegExp(`^failed\\t.*frame-gone: ${gone}`, "m"));
    expect(batch.out).toMatch(new RegExp(`^failed\\t.*${blocked}.*unwritable: `, "m"));
    expect(await queueIs("status")).toMatch(new RegExp(`set aside\\t.*frame-gone: ${gone}`));
    // once all is as it should be, they are tried again
    await rm(join(out, blocked), { recursive: true });
    await copyFile(join(folder, gone), join(own, gone));
    await queueIs("retry");
    await until(async () => (await results(out)).size === COUNT);
    expect(await results(out)).toEqual(alone);
  });

  test("is paused, drained and cleared", async () => {
    await queueIs("pause");
    const batch = overQueue(folder, path("paused"));
    await until(async () => /^4 waiting.*paused/.test(await queueIs("status")));
    await queueIs("resume");
    await until(() => batch.out.includes("merged"));
    await queueIs("drain");
    const [, left] = /^(\d) waiting, 0 at work/.exec(await queueIs("status"))!;
    await queueIs("clear");
    expect(await batch.end()).toBe(Number(left) ? 1 : 0);
    expect(batch.out.match(/^failed\t.*cleared/gm) ?? []).toHaveLength(Number(left));
    expect(await queueIs("metrics")).toMatch(/^rhizome_queue_jobs\{state="waiting"\} 0$/m);
    await queueIs("resume");
  });

  test("a worker that is stopped twice gives back what is at work", async () => {
    const own = `${queue.url}/2`;
    const room = path("room");
    await mkdir(room);
    for (const file of bedroom) await copyFile(file, join(room, basename(file)));
    const batch = new Running("batch", room, "--out", path("room-out"), "--queue", own);
    const status = async (): Promise<string> => (await run("queue", "status", "--queue", own)).out;
    const stopped = new Running("work", "--queue", own);
    await until(async () => (await status()).includes("at work\t"));
    stopped.signal("SIGTERM");
    await until(() => stopped.err.includes("Once more"));
    stopped.signal("SIGTERM");
    expect(await stopped.end()).toBe(0);
    expect(await status()).toMatch(/^1 waiting, 0 at work, 0 done/);
    const next = new Running("work", "--queue", own);
    expect(await batch.end()).toBe(0);
    next.signal("SIGTERM");
    expect(await next.end()).toBe(0);
  });

  test("merges a nested stack's members first, with the bytes of one process", async () => {
    const sweep = path("sweep");
    await writeBracketedSweep(sweep, 3);
    const here = await run("batch", sweep, "--out", path("sweep-alone"));
    expect(here).toMatchObject({ code: 0 });
    expect(here.out.match(/^merged\t/gm)).toHaveLength(1);
    const out = path("sweep-queue");
    const batch = overQueue(sweep, out);
    expect(await batch.end()).toBe(0);
    expect(await results(out)).toEqual(await results(path("sweep-alone")));
    const shared = await readdir(join(out, ".rhizome"));
    expect(shared.filter((name) => !name.endsWith(".json"))).toEqual([]);
  });
});

describe("a queue's address", () => {
  test.each([
    ["http://127.0.0.1:1", /--queue is written/],
    ["redis://user:secret@/x", /--queue is written/],
    ["redis://127.0.0.1:1/0", /queue-unreachable.*127\.0\.0\.1:1.*ECONNREFUSED/],
  ])("%s is refused by name, without its password", async (address, said) => {
    const done = await run("batch", path(""), "--out", path("none"), "--queue", address);
    expect(done.code).toBeGreaterThan(0);
    expect(done.err).toMatch(said);
    expect(done.err).not.toContain("secret");
  });
});
