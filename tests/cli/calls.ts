import { execFile } from "node:child_process";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** One of the demo's frames. */
export const demoFrame = (number: number): string =>
  join(process.cwd(), `demo/frames/QM_0${number}.jpg`);
/** So many of the demo's frames from a number on. */
export const frames = (from: number, n: number): string[] =>
  Array.from({ length: n }, (_, i) => demoFrame(from + i));
/** A bracket of three. */
export const bedroom = frames(429, 3);

/** Calls the command line as it is built. */
export const run = (...args: string[]): Promise<{ code: number; out: string; err: string }> =>
  new Promise((done) => {
    execFile(process.execPath, ["bin/rhizome", ...args], { timeout: 120000 }, (e, out, err) =>
      done({ code: e ? Number(e.code) : 0, out, err }),
    );
  });

/** A folder for the files of a test file; it is removed after the last test. */
export function ownFolder(): { path(file: string): string; dir(): string } {
  let dir = "";
  beforeAll(async () => {
    dir = await mkdtemp(join(tmpdir(), "rhizome-cli-"));
  });
  afterAll(() => rm(dir, { recursive: true, force: true }));
  return { path: (file) => join(dir, file), dir: () => dir };
}
