import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import Vips from "wasm-vips";
import { Pool } from "../pipeline/pool";
import { nodeHost } from "../runtime/hosts/node";

const WORKER = pathToFileURL(join(import.meta.dirname, "../build/node/worker.js"));
let dir: string;
let slow: string;
const good = join(import.meta.dirname, "../tests/files/exr/half-piz.exr");

beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), "rhizome-slow-"));
  slow = join(dir, "SLOW.jpg");
  const vips = await Vips({ dynamicLibraries: [] });
  // noise, which takes seconds to decode
  const noise = vips.Image.gaussnoise(1000, 1000).cast("uchar").replicate(8, 8);
  await writeFile(slow, noise.jpegsaveBuffer({ Q: 90 }));
  vips.shutdown();
});
afterAll(async () => {
  await rm(dir, { recursive: true, force: true });
});

const clipping = (path: string) => ({ source: { name: path, path }, downscale: 1 });

test("a file whose decoding takes too long is given up by name; the files behind it are read", async () => {
  const pool = new Pool(nodeHost(WORKER, 1));
  const bad = pool.run("clipping", clipping(slow), {
    subject: "SLOW.jpg",
    allowanceMs: 1,
  });
  const next = pool.run("clipping", clipping(good));
  await expect(bad).rejects.toMatchObject({
    code: "too-slow",
    message: expect.stringContaining("SLOW.jpg") as unknown,
  });
  expect((await next).bright).toBeLessThanOrEqual(1);
  await pool.idle();
  expect(pool.arena.inUse).toBe(0);
  pool.close();
});

test("a stop ends a worker in the middle of its work, and what it worked with is free", async () => {
  const pool = new Pool(nodeHost(WORKER, 1));
  await pool.run("clipping", clipping(good));
  const stopper = new AbortController();
  const { result, ended } = pool.start("clipping", clipping(slow), { signal: stopper.signal });
  const stopped = expect(result).rejects.toMatchObject({ code: "stopped" });
  stopper.abort();
  await stopped;
  await ended;
  expect(pool.arena.inUse).toBe(0);
  expect((await pool.run("clipping", clipping(good))).bright).toBeLessThanOrEqual(1);
  pool.close();
});
