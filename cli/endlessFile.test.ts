import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { Pool } from "../pipeline/pool";
import { nodeHost } from "../runtime/hosts/node";

const WORKER = pathToFileURL(join(import.meta.dirname, "../build/node/worker.js"));
let dir: string;
let endless: string;
const good = join(import.meta.dirname, "../tests/files/exr/half-piz.exr");

beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), "rhizome-endless-"));
  endless = join(dir, "ENDLESS.exr");
  const bytes = await readFile(good);
  // with this byte changed its decoder goes round for ever
  bytes[3162] = 44;
  await writeFile(endless, bytes);
});
afterAll(async () => {
  await rm(dir, { recursive: true, force: true });
});

const clipping = (path: string) => ({ source: { name: path, path }, downscale: 1 });

test("a file whose decoding never ends is given up by name; the files behind it are read", async () => {
  const pool = new Pool(nodeHost(WORKER, 1));
  const bad = pool.run("clipping", clipping(endless), {
    subject: "ENDLESS.exr",
    allowanceMs: 6000,
  });
  const next = pool.run("clipping", clipping(good));
  await expect(bad).rejects.toMatchObject({
    code: "too-slow",
    message: expect.stringContaining("ENDLESS.exr") as unknown,
  });
  expect((await next).bright).toBeLessThanOrEqual(1);
  await pool.idle();
  expect(pool.arena.inUse).toBe(0);
  pool.close();
});

test("a stop ends a worker that would never end by itself, and what it worked with is free", async () => {
  const pool = new Pool(nodeHost(WORKER, 1));
  await pool.run("clipping", clipping(good));
  const stopper = new AbortController();
  const { result, ended } = pool.start("clipping", clipping(endless), { signal: stopper.signal });
  const stopped = expect(result).rejects.toMatchObject({ code: "stopped" });
  stopper.abort();
  await stopped;
  await ended;
  expect(pool.arena.inUse).toBe(0);
  expect((await pool.run("clipping", clipping(good))).bright).toBeLessThanOrEqual(1);
  pool.close();
});
