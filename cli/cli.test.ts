import { execFile } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Vips from "wasm-vips";
import { simulateFocusRun } from "../simulate/focusRun";
import { simulatedRoom } from "../simulate/room";
import { readExif } from "../codecs/exif";
import { defaultRecipe } from "../pipeline/recipe/recipe";

const frames = (from: number, n: number): string[] =>
  Array.from({ length: n }, (_, i) => join(process.cwd(), `demo/frames/QM_0${from + i}.jpg`));
const bedroom = frames(429, 3);
let dir: string;
beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), "rhizome-cli-"));
});
afterAll(() => rm(dir, { recursive: true, force: true }));

const run = (...args: string[]): Promise<{ code: number; out: string; err: string }> =>
  new Promise((done) => {
    execFile(process.execPath, ["bin/rhizome", ...args], { timeout: 120000 }, (e, out, err) =>
      done({ code: e ? Number(e.code) : 0, out, err }),
    );
  });

test("inspect tells size, exposure and clipping", async () => {
  const { code, out } = await run("inspect", "--json", bedroom[1]!);
  expect(code).toBe(0);
  expect(JSON.parse(out)[0]).toMatchObject({
    format: "jpeg",
    width: 2160,
    height: 1440,
    depth: 8,
    aperture: 5.6,
    iso: 200,
    exposureTime: 1,
    camera: "Quillmoor Stand-in 24",
  });
});

test("inspect of several files tells what it can of each, also where the pixels of one are damaged", async () => {
  const half = join(dir, "half.jpg");
  await writeFile(half, (await readFile(bedroom[0]!)).subarray(0, 50000));
  const { code, out, err } = await run("inspect", half, bedroom[1]!, "--json");
  expect(code).toBe(1);
  expect((JSON.parse(out) as { file: string }[]).map((r) => r.file)).toEqual([bedroom[1]]);
  expect(err).toContain("half.jpg");
});

test("group finds the brackets, the sweeps, the focus runs and the sphere of the demo, and the one step that was left out", async () => {
  const { out } = await run("group", join(process.cwd(), "demo/frames"), "--json");
  const stacks = JSON.parse(out) as {
    kind: string;
    frames: string[];
    warnings: { code: string; message: string }[];
  }[];
  expect(stacks.map((s) => s.warnings.map((w) => w.code))).toEqual([
    [],
    [],
    [],
    [],
    [],
    [],
    ["focus-gap"],
    [],
    [],
    [],
    [],
  ]);
  expect(stacks.map((s) => [s.kind, s.frames.length])).toEqual([
    ["bracket", 5],
    ["bracket", 7],
    ["bracket", 5],
    ["bracket", 3],
    ["panorama", 7],
    ["focus", 24],
    ["focus", 18],
    ["panorama", 27],
    ["panorama", 15],
    ["focus", 36],
    ["panorama", 12],
  ]);
});

test.each([
  ["tif", "ushort", 16],
  ["png", "ushort", 16],
  ["jpg", "uchar", 8],
  ["hdr", "float", 32],
])("merge writes .%s", async (ending, format) => {
  const file = join(dir, `out.${ending}`);
  const report = join(dir, "report.json");
  expect(
    await run("merge", ...bedroom, "--as", "bracket", "--out", file, "--report", report),
  ).toMatchObject({ code: 0, out: "", err: "" });
  const vips = await Vips({ dynamicLibraries: [] });
  const image = vips.Image.newFromBuffer(await readFile(file));
  const decoded = ending === "hdr" ? image.rad2float() : image;
  expect([decoded.width, decoded.height, decoded.format]).toEqual([2160, 1440, format]);
  // the reference frame's EXIF, by a reader of its own
  if (ending === "tif" || ending === "jpg")
    expect(readExif(await readFile(file))).toMatchObject({
      aperture: 5.6,
      exposureTime: 1,
      iso: 200,
      camera: "Quillmoor Stand-in 24",
      lens: "Stand-in 20 mm",
    });
  expect(JSON.parse(await readFile(report, "utf8"))).toMatchObject({
    kind: "bracket",
    reference: 1,
    output: { width: 2160, height: 1440 },
  });
});

test.each([
  ["png", 16],
  ["jpg", 8],
])("a smaller .%s is what an independent Lanczos makes of the whole one", async (ending, bits) => {
  const whole = join(dir, `whole.${ending}`);
  const small = join(dir, `small.${ending}`);
  const vips = await Vips({ dynamicLibraries: [] });
  for (const [file, edge] of [
    [whole, "0"],
    [small, "800"],
  ] as const)
    expect(
      (
        await run(
          "merge",
          ...bedroom,
          "--as",
          "bracket",
          "--set",
          `deliver.longEdge=${edge}`,
          "--set",
          "deliver.quality=98",
          "--out",
          file,
        )
      ).code,
    ).toBe(0);
  const a = vips.Image.newFromBuffer(await readFile(small));
  const b = vips.Image.newFromBuffer(await readFile(whole)).resize(800 / 2160, {
    kernel: "lanczos3",
  });
  expect([a.width, a.height]).toEqual([800, 533]);
  const error = a
    .subtract(b.crop(0, 0, 800, 533))
    .abs()
    .avg();
  // rows lie a little apart, since 1440 px do not fill 533 rows evenly
  expect(error / 2 ** bits).toBeLessThan(0.006);
});

test("a fusion leaves one frame as it is, and stays the same for any count of threads", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const out = (k: string): string => join(dir, `fused-${k}.png`);
  expect(
    (
      await run(
        "merge",
        bedroom[1]!,
        "--as",
        "bracket",
        "--set",
        "merge.method=fusion",
        "--out",
        out("one"),
      )
    ).code,
  ).toBe(0);
  const a = vips.Image.newFromBuffer(await readFile(bedroom[1]!));
  const b = vips.Image.newFromBuffer(await readFile(out("one")));
  const apart = a.multiply(257).subtract(b).abs().max();
  expect(apart).toBeLessThan(300);
  for (const t of ["1", "2"])
    expect(
      (
        await run(
          "merge",
          ...bedroom,
          "--as",
          "bracket",
          "--set",
          "merge.method=fusion",
          "--threads",
          t,
          "--out",
          out(t),
        )
      ).code,
    ).toBe(0);
  expect(Buffer.compare(await readFile(out("1")), await readFile(out("2")))).toBe(0);
});

test("one thread and two, the whole at once and band by band in little memory give the same bytes", async () => {
  const [a, b, c] = ["a.tif", "b.tif", "c.tif"].map((f) => join(dir, f)) as [
    string,
    string,
    string,
  ];
  for (const [file, threads, memory] of [
    [a, "1", "2048"],
    [b, "2", "2048"],
    [c, "2", "400"],
  ] as const)
    expect(
      (
        await run(
          "merge",
          ...frames(412, 3),
          "--as",
          "bracket",
          "--out",
          file,
          "--depth",
          "32f",
          "--space",
          "linear",
          "--set",
          "tone.operator=none",
          "--threads",
          threads,
          "--memory",
          memory,
        )
      ).code,
    ).toBe(0);
  for (const other of [b, c])
    expect(Buffer.compare(await readFile(a), await readFile(other))).toBe(0);
});

test("errors have a code, the file's name, one line, the right status, and leave no file", async () => {
  const broken = join(dir, "broken.jpg");
  const text = join(dir, "text.jpg");
  const file = join(dir, "never.jpg");
  await writeFile(broken, (await readFile(bedroom[0]!)).subarray(0, 50000));
  await writeFile(text, "this is no picture");
  const odd = join(dir, "odd.json");
  await writeFile(odd, JSON.stringify({ ...defaultRecipe("bracket"), retouch: { repairs: [] } }));
  for (const [args, code, said] of [
    [
      ["merge", broken, bedroom[1]!, "--as", "bracket", "--out", file],
      1,
      /^rhizome: damaged: broken\.jpg .+\)\n$/,
    ],
    [["merge", text, "--as", "bracket", "--out", file], 1, /^rhizome: not-a-picture: text\.jpg/],
    [["merge", bedroom[0]!, "--as", "bracket", "--out", join(dir, "x.gif")], 2, /^rhizome: usage/],
    [
      ["merge", bedroom[0]!, "--as", "bracket", "--out", file, "--set", "tone.nothing=1"],
      2,
      /^rhizome: setting-unknown/,
    ],
    [
      ["merge", bedroom[0]!, "--recipe", odd, "--out", file],
      2,
      /^rhizome: setting-unknown: .*odd\.json .*retouch\.repairs/,
    ],
    [
      ["merge", bedroom[0]!, "--recipe", text, "--out", file],
      2,
      /^rhizome: recipe-invalid: .*text/,
    ],
    [
      ["merge", bedroom[0]!, "--as", "bracket", "--out", file, "--set", "merge.reference=7"],
      2,
      /^rhizome: reference-unknown/,
    ],
    [
      ["merge", join(dir, "absent.jpg"), "--as", "bracket", "--out", file],
      1,
      /^rhizome: unreadable: absent\.jpg/,
    ],
    [["nonsense"], 2, /^rhizome: usage/],
    [["recipe", "constructor"], 2, /^rhizome: kind-unknown/],
  ] as const) {
    const r = await run(...args);
    expect([args.join(" "), r.code, r.err.match(said) !== null]).toEqual([
      args.join(" "),
      code,
      true,
    ]);
  }
  expect((await readdir(dir)).filter((f) => f.startsWith("never") || f.includes(".part"))).toEqual(
    [],
  );
});

test("merge --as panorama places the ridge's frames, names one that belongs elsewhere, and the same bytes come from one thread", async () => {
  const ridge = frames(433, 3);
  const report = join(dir, "pano.json");
  const [a, b] = [join(dir, "a.png"), join(dir, "b.png")];
  const { code, err } = await run(
    "merge",
    ...ridge,
    bedroom[1]!,
    "--as",
    "panorama",
    "--set",
    "panorama.width=1200",
    "--out",
    a!,
    "--report",
    report,
  );
  expect([code, err]).toEqual([0, ""]);
  const r = JSON.parse(await readFile(report, "utf8")) as {
    kind: string;
    output: { width: number; height: number };
    panorama: {
      projection: string;
      pxPerRadian: number;
      frames: { file: string; focalPx: number; rotation: number[]; rmsPx: number }[];
      leftOut: string[];
    };
    warnings: { code: string; message: string }[];
  };
  expect(r.kind).toBe("panorama");
  expect(r.panorama.leftOut).toEqual(["QM_0430.jpg"]);
  expect(r.warnings[0]).toMatchObject({
    code: "left-out",
    message: expect.stringContaining("QM_0430.jpg") as string,
  });
  for (const f of r.panorama.frames) {
    expect(Math.abs(f.focalPx / 2100 - 1)).toBeLessThan(0.01);
    expect(f.rmsPx).toBeLessThan(0.5);
  }
  expect(r.output.width).toBeGreaterThan(1000);
  expect(r.output.width).toBeLessThanOrEqual(1200);
  await run(
    "merge",
    ...ridge,
    bedroom[1]!,
    "--as",
    "panorama",
    "--set",
    "panorama.width=1200",
    "--threads",
    "1",
    "--out",
    b!,
  );
  expect(Buffer.compare(await readFile(a!), await readFile(b!))).toBe(0);
});

test("frames prepared before the merge: lighter corners, less noise, and the same bytes for any count of threads", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const made = async (name: string, ...set: string[]): Promise<Buffer> => {
    const file = join(dir, `${name}.png`);
    expect(
      await run(
        "merge",
        bedroom[0]!,
        "--as",
        "bracket",
        "--set",
        "tone.operator=plain",
        "--depth",
        "8",
        ...set,
        "--out",
        file,
      ),
    ).toMatchObject({ code: 0, err: "" });
    return readFile(file);
  };
  const corner = (b: Buffer): number => vips.Image.newFromBuffer(b).crop(2000, 100, 120, 120).avg();
  const rough = (b: Buffer): number => {
    const im = vips.Image.newFromBuffer(b).crop(1600, 200, 200, 200).extractBand(1).cast("float");
    return im.subtract(im.gaussblur(2)).deviate();
  };
  const plain = await made("as-taken");
  const lens = ["prepare.distortion=0.05", "prepare.vignetting=0.3", "prepare.fringeRed=2"].flatMap(
    (x) => ["--set", x],
  );
  expect(corner(await made("corners", "--set", "prepare.vignetting=0.3"))).toBeGreaterThan(
    corner(plain) * 1.05,
  );
  expect(rough(await made("smooth", "--set", "prepare.noise=1"))).toBeLessThan(0.8 * rough(plain));
  const one = await made("one-thread", ...lens, "--set", "prepare.noise=0.5", "--threads", "1");
  const two = await made("two-threads", ...lens, "--set", "prepare.noise=0.5", "--threads", "2");
  expect(Buffer.compare(one, two)).toBe(0);
  expect(
    (
      await run(
        "merge",
        bedroom[0]!,
        "--as",
        "bracket",
        "--set",
        "prepare.distortion=2",
        "--out",
        join(dir, "never.png"),
      )
    ).code,
  ).toBe(2);
});

test("a bracket hand-held is cropped to what all frames cover, when asked to", async () => {
  const file = join(dir, "cropped.jpg");
  const report = join(dir, "cropped.json");
  const size = async (...set: string[]): Promise<[number, number]> => {
    expect(
      (
        await run(
          "merge",
          ...frames(417, 3),
          "--as",
          "bracket",
          ...set,
          "--out",
          file,
          "--report",
          report,
        )
      ).code,
    ).toBe(0);
    const { output } = JSON.parse(await readFile(report, "utf8")) as {
      output: { width: number; height: number };
    };
    return [output.width, output.height];
  };
  expect(await size()).toEqual([2160, 1440]);
  const [width, height] = await size("--set", "edges.mode=crop");
  expect(width).toBeLessThan(2160);
  expect(width).toBeGreaterThan(2060);
  expect(height).toBeLessThan(1440);
  expect(height).toBeGreaterThan(1370);
});

test("a panorama's borders: cut off, left empty with alpha, filled, or bent away", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const made = async (
    mode: string,
    ending: string,
  ): Promise<{
    image: Vips.Image;
    report: { suspects: { kind: string }[]; warnings: unknown[] };
  }> => {
    const file = join(dir, `${mode}.${ending}`);
    const report = join(dir, `${mode}.json`);
    const { code, err } = await run(
      "merge",
      ...frames(433, 3),
      "--as",
      "panorama",
      "--set",
      "panorama.width=900",
      "--set",
      `edges.mode=${mode}`,
      "--depth",
      "16",
      "--out",
      file,
      "--report",
      report,
    );
    expect([code, err]).toEqual([0, ""]);
    return {
      image: vips.Image.newFromBuffer(await readFile(file)),
      report: JSON.parse(await readFile(report, "utf8")) as {
        suspects: { kind: string }[];
        warnings: unknown[];
      },
    };
  };
  const black = (im: Vips.Image): number => im.extractBand(1).lessEq(64).avg() / 255;
  const crop = await made("crop", "png");
  const keep = await made("keep", "tif");
  const extend = await made("extend", "png");
  const rectangle = await made("rectangle", "png");
  expect([crop, extend, rectangle].map(({ image }) => image.bands)).toEqual([3, 3, 3]);
  expect(keep.image.bands).toBe(4);
  const alpha = keep.image.extractBand(3);
  expect([alpha.min(), alpha.max()]).toEqual([0, 65535]);
  // alpha tells just what is empty
  expect(Math.abs(black(keep.image) - alpha.equal(0).avg() / 255)).toBeLessThan(0.01);
  expect(black(keep.image)).toBeGreaterThan(0.01);
  for (const { image } of [crop, extend, rectangle]) expect(black(image)).toBeLessThan(2e-4);
  expect([extend.image.width, extend.image.height]).toEqual([keep.image.width, keep.image.height]);
  expect(crop.image.width * crop.image.height).toBeLessThan(
    rectangle.image.width * rectangle.image.height,
  );
  expect(extend.report.suspects.some((s) => s.kind === "filled")).toBe(true);
  expect(
    [crop, rectangle].flatMap(({ report }) => report.suspects.filter((s) => s.kind === "filled")),
  ).toEqual([]);
  expect(rectangle.report.warnings).toEqual([]);
  expect(
    await run(
      "merge",
      ...bedroom,
      "--as",
      "bracket",
      "--set",
      "edges.mode=extend",
      "--out",
      join(dir, "no.jpg"),
    ),
  ).toMatchObject({ code: 2, err: expect.stringMatching(/^rhizome: recipe-invalid/) as string });
});

test("a frame of a sweep that was taken twice is named and left out, unless it is asked for", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const again = join(dir, "again.jpg");
  const frame = vips.Image.newFromFile(frames(434, 1)[0]!);
  // a hand's width beside, and coded anew
  frame.embed(-6, -4, frame.width, frame.height, { extend: "copy" }).writeToFile(again, { Q: 88 });
  const made = async (...set: string[]) => {
    const report = join(dir, "twice.json");
    const { code, err } = await run(
      "merge",
      ...frames(433, 3),
      again,
      "--as",
      "panorama",
      "--set",
      "panorama.width=900",
      ...set,
      "--out",
      join(dir, "twice.jpg"),
      "--report",
      report,
    );
    expect([code, err]).toEqual([0, ""]);
    const r = JSON.parse(await readFile(report, "utf8")) as {
      panorama: { duplicates: unknown[]; leftOut: unknown[]; frames: unknown[] };
      warnings: { code: string }[];
    };
    return {
      ...r.panorama,
      frames: r.panorama.frames.length,
      codes: r.warnings.map((w) => w.code),
    };
  };
  expect(await made()).toEqual(
    expect.objectContaining({
      duplicates: [{ file: "again.jpg", of: "QM_0434.jpg" }],
      leftOut: [],
      frames: 3,
      codes: ["duplicate"],
    }),
  );
  expect(await made("--set", "panorama.duplicates=use")).toEqual(
    expect.objectContaining({ duplicates: [], frames: 4, codes: [] }),
  );
});

test("frames that do not overlap make no panorama, and say so", async () => {
  const { code, err } = await run(
    "merge",
    frames(412, 1)[0]!,
    bedroom[1]!,
    "--as",
    "panorama",
    "--out",
    join(dir, "none.jpg"),
  );
  expect(code).toBe(1);
  expect(err).toMatch(/^rhizome: no-overlap/);
});

test("merge --as focus: sharper than any frame, in whatever order they come", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const run_ = simulateFocusRun(simulatedRoom(360, 240, 8), {
    width: 360,
    height: 240,
    count: 8,
    blur: 12,
    breathing: 0.01,
    seed: 2,
  });
  const order = [3, 0, 6, 2, 7, 5, 1, 4];
  const files = await Promise.all(
    order.map(async (i, k) => {
      const file = join(dir, `focus${k}.png`);
      const im = vips.Image.newFromMemory(
        run_.frames[i]!.samples,
        360,
        240,
        3,
        vips.BandFormat.uchar,
      ).copy({ interpretation: "srgb" });
      await writeFile(file, im.pngsaveBuffer());
      im.delete();
      return file;
    }),
  );
  const out = join(dir, "focus.png");
  const report = join(dir, "focus.json");
  const { code, err } = await run(
    "merge",
    ...files,
    "--as",
    "focus",
    "--set",
    "edges.mode=keep",
    "--out",
    out,
    "--depth",
    "8",
    "--report",
    report,
  );
  expect([code, err]).toEqual([0, ""]);
  const found = (
    JSON.parse(await readFile(report, "utf8")) as { focus: { order: string[] } }
  ).focus.order.map((n) => order[Number(/\d+/.exec(n)![0])]!);
  const steps = found.slice(1).map((v, i) => v - found[i]!);
  expect(Math.abs(steps.reduce((a, b) => a + Math.sign(b), 0))).toBeGreaterThanOrEqual(5);
  const pixels = (b: Uint8Array): Uint8Array => {
    const im = vips.Image.newFromBuffer(b);
    const p = im.writeToMemory() as Uint8Array;
    im.delete();
    return p;
  };
  // mean square off the scene all in focus, away from the border
  const off = (p: Uint8Array): number => {
    let sum = 0;
    for (let y = 20; y < 220; y++)
      for (let i = (y * 360 + 20) * 3; i < (y * 360 + 340) * 3; i++)
        sum += (p[i]! - run_.sharp[i]!) ** 2;
    return sum / (200 * 320 * 3);
  };
  const slope = (p: Uint8Array): number => {
    let s = 0;
    for (let y = 20; y < 220; y++)
      for (let x = 20; x < 340; x++)
        s += Math.abs(p[(y * 360 + x) * 3 + 1]! - p[(y * 360 + x + 1) * 3 + 1]!);
    return s;
  };
  const fused = pixels(await readFile(out));
  const steepest = Math.max(...run_.frames.map((f) => slope(f.samples)));
  const nearest = Math.min(...run_.frames.map((f) => off(f.samples)));
  process.stdout.write(
    `focus run: ${(slope(fused) / steepest).toFixed(2)} times the slopes of the sharpest frame, ${off(fused).toFixed(1)} off the scene in the mean square, the best frame ${nearest.toFixed(1)}\n`,
  );
  expect(slope(fused)).toBeGreaterThan(steepest * 1.12);
  expect(off(fused)).toBeLessThan(nearest / 4);
});
