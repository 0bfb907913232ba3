import { execFile } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Vips from "wasm-vips";
import { readExif } from "../codecs/exif";

const frames = (from: number, n: number): string[] => Array.from({ length: n }, (_, i) => join(process.cwd(), `demo/frames/QM_0${from + i}.jpg`));
const bedroom = frames(429, 3);
let dir: string;
beforeAll(async () => { dir = await mkdtemp(join(tmpdir(), "rhizome-cli-")); });
afterAll(() => rm(dir, { recursive: true, force: true }));

const run = (...args: string[]): Promise<{ code: number; out: string; err: string }> => new Promise((done) => {
  execFile(process.execPath, ["bin/rhizome", ...args], { timeout: 120000 }, (e, out, err) => done({ code: e ? Number(e.code) : 0, out, err }));
});

test("inspect tells size, exposure and clipping", async () => {
  const { code, out } = await run("inspect", "--json", bedroom[1]!);
  expect(code).toBe(0);
  expect(JSON.parse(out)[0]).toMatchObject({ format: "jpeg", width: 2160, height: 1440, depth: 8, aperture: 5.6, iso: 200, exposureTime: 1, camera: "Quillmoor Stand-in 24" });
});

test("group finds the four brackets of the demo", async () => {
  const { out } = await run("group", join(process.cwd(), "demo/frames"), "--json");
  expect((JSON.parse(out) as { kind: string; frames: string[] }[]).map((s) => [s.kind, s.frames.length])).toEqual([["bracket", 5], ["bracket", 7], ["bracket", 5], ["bracket", 3]]);
});

test.each([["tif", "ushort", 16], ["png", "ushort", 16], ["jpg", "uchar", 8], ["hdr", "float", 32]])("merge writes .%s", async (ending, format) => {
  const file = join(dir, `out.${ending}`), report = join(dir, "report.json");
  expect(await run("merge", ...bedroom, "--as", "bracket", "--out", file, "--report", report)).toMatchObject({ code: 0, out: "", err: "" });
  const vips = await Vips({ dynamicLibraries: [] });
  const image = vips.Image.newFromBuffer(await readFile(file)), decoded = ending === "hdr" ? image.rad2float() : image;
  expect([decoded.width, decoded.height, decoded.format]).toEqual([2160, 1440, format]);
  // the reference frame's EXIF, by a reader of its own
  if (ending === "tif" || ending === "jpg") expect(readExif(await readFile(file))).toMatchObject({ aperture: 5.6, exposureTime: 1, iso: 200, camera: "Quillmoor Stand-in 24", lens: "Stand-in 20 mm" });
  expect(JSON.parse(await readFile(report, "utf8"))).toMatchObject({ kind: "bracket", reference: 1, output: { width: 2160, height: 1440 } });
});

test("a fusion leaves one frame as it is, and stays the same for any count of threads", async () => {
  const vips = await Vips({ dynamicLibraries: [] }), out = (k: string): string => join(dir, `fused-${k}.png`);
  expect((await run("merge", bedroom[1]!, "--as", "bracket", "--set", "merge.method=fusion", "--out", out("one"))).code).toBe(0);
  const a = vips.Image.newFromBuffer(await readFile(bedroom[1]!)), b = vips.Image.newFromBuffer(await readFile(out("one"))), apart = a.multiply(257).subtract(b).abs().max();
  expect(apart).toBeLessThan(300);
  for (const t of ["1", "2"]) expect((await run("merge", ...bedroom, "--as", "bracket", "--set", "merge.method=fusion", "--threads", t, "--out", out(t))).code).toBe(0);
  expect(Buffer.compare(await readFile(out("1")), await readFile(out("2")))).toBe(0);
}, 120000);

test("one thread and two give the same bytes, and scene-linear floats are the radiance", async () => {
  const [a, b] = [join(dir, "a.tif"), join(dir, "b.tif")];
  for (const [file, threads] of [[a, "1"], [b, "2"]] as const) expect((await run("merge", ...bedroom, "--as", "bracket", "--out", file, "--depth", "32f", "--space", "linear", "--set", "tone.operator=none", "--threads", threads)).code).toBe(0);
  expect(Buffer.compare(await readFile(a), await readFile(b))).toBe(0);
});

test("errors have a code, the file's name, one line, the right status, and leave no file", async () => {
  const broken = join(dir, "broken.jpg"), text = join(dir, "text.jpg"), file = join(dir, "never.jpg");
  await writeFile(broken, (await readFile(bedroom[0]!)).subarray(0, 50000));
  await writeFile(text, "this is no picture");
  for (const [args, code, said] of [
    [["merge", broken, bedroom[1]!, "--as", "bracket", "--out", file], 1, /^rhizome: damaged: broken\.jpg .+\)\n$/],
    [["merge", text, "--as", "bracket", "--out", file], 1, /^rhizome: not-a-picture: text\.jpg/],
    [["merge", bedroom[0]!, "--as", "bracket", "--out", join(dir, "x.gif")], 2, /^rhizome: usage/],
    [["merge", bedroom[0]!, "--as", "bracket", "--out", file, "--set", "tone.nothing=1"], 2, /^rhizome: setting-unknown/],
    [["merge", bedroom[0]!, "--as", "bracket", "--out", file, "--set", "merge.reference=7"], 2, /^rhizome: reference-unknown/],
    [["merge", join(dir, "absent.jpg"), "--as", "bracket", "--out", file], 1, /^rhizome: unreadable: absent\.jpg/],
    [["nonsense"], 2, /^rhizome: usage/], [["recipe", "constructor"], 2, /^rhizome: kind-unknown/],
  ] as const) {
    const r = await run(...args);
    expect([args.join(" "), r.code, r.err.match(said) !== null]).toEqual([args.join(" "), code, true]);
  }
  expect((await readdir(dir)).filter((f) => f.startsWith("never") || f.includes(".part"))).toEqual([]);
});
