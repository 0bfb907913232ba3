// Times the engine on Node and, where Debian's OpenCV and libvips are installed, native code on the
// same frames right after.
//   npm run bench            everything, the growth curves included (half an hour)
//   npm run bench -- short   the tables without the curves
//   npm run bench -- kernels  the hot loops alone
//   npm run bench -- curves  the curves alone
// Frames are made once, in $TMPDIR/rhizome-bench.
import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, statSync } from "node:fs";
import { cpus, tmpdir, totalmem } from "node:os";
import { join } from "node:path";
import { timePage } from "./page.mjs";

const root = join(tmpdir(), "rhizome-bench");
const out = mkdtempSync(join(tmpdir(), "rhizome-bench-out-"));
const run = (cmd, args, env = {}) =>
  execFileSync(cmd, args, {
    encoding: "utf8",
    stdio: ["ignore", "pipe", "ignore"],
    env: { ...process.env, ...env },
  });
const attempt = (f) => {
  try {
    return f();
  } catch {
    return undefined;
  }
};
const median = (runs, by) => [...runs].sort((a, b) => by(a) - by(b))[runs.length >> 1];

function frames(mp, count) {
  const dir = join(root, `${mp}mp-${count}`);
  if (!existsSync(dir) || readdirSync(dir).length < count)
    run("node", ["build/node/benchFrames.js", dir, String(mp), String(count)]);
  return readdirSync(dir)
    .sort()
    .map((f) => join(dir, f));
}
function merge(files, extra = [], times = 1) {
  const runs = Array.from({ length: times }, () => {
    run("bin/rhizome", [
      "merge",
      ...files,
      "--as",
      "bracket",
      "--out",
      join(out, "o.jpg"),
      "--report",
      join(out, "r.json"),
      ...extra,
    ]);
    const r = JSON.parse(readFileSync(join(out, "r.json"), "utf8"));
    const t = r.timingsMs;
    return {
      ...t,
      whole: t.decode + t.align + t.merge,
      peakMiB: Math.round(r.peakMemoryBytes / 2 ** 20),
      mp: (r.output.width * r.output.height * files.length) / 1e6,
    };
  });
  return median(runs, (r) => r.whole);
}
const reference = (job, files) =>
  attempt(() =>
    JSON.parse(
      run("python3", ["bench/reference.py", job, join(files[0], "..")], {
        PATH: `/usr/bin:${process.env.PATH}`,
      }),
    ),
  );
const ratio = (ours, theirs) => (theirs ? (ours / theirs.ms).toFixed(2) : "not installed");
const table = (head, rows) =>
  console.log(
    `\n| ${head.join(" | ")} |\n|${head.map(() => "---").join("|")}|\n${rows.map((r) => `| ${r.join(" | ")} |`).join("\n")}`,
  );

console.log(
  `${cpus().length} x ${cpus()[0].model}, ${Math.round(totalmem() / 2 ** 30)} GiB, Node ${process.version}`,
);
const part = process.argv[2];
if (part === "kernels") {
  table(
    ["hot loop, one thread", "ms a MP"],
    run("node", ["build/node/benchKernels.js"])
      .trim()
      .split("\n")
      .map((l) => JSON.parse(l))
      .map((r) => [r.name.replace(/^./, (c) => c.toUpperCase()), r.ms.toFixed(2)]),
  );
  process.exit(0);
}
if (part !== "curves") {
  const five = frames(24, 5);
  const times = 3;
  const b = merge(five, [], times);
  const cvBracket = reference("bracket", five);
  const cvTone = reference("tone", five);
  const f = merge(five, ["--set", "merge.method=fusion"]);
  const cvFuse = reference("fuse", five);
  const hundred = Array.from({ length: 100 }, (_, i) => frames(6, 32)[i % 32]);
  const imported = JSON.parse(run("node", ["build/node/benchBringIn.js", ...hundred]));
  const vips = attempt(() => {
    const t = performance.now();
    run("vipsthumbnail", ["-s", "360", "-o", join(out, "t_%s.jpg"), ...hundred], {
      VIPS_CONCURRENCY: "1",
    });
    return { ms: performance.now() - t };
  });
  table(
    ["job", "ms", "MP/s", "peak MiB", "native ms", "ratio"],
    [
      [
        "bracket 5 x 24 MP: read, align, merge",
        b.whole,
        ((b.mp / b.whole) * 1000).toFixed(1),
        b.peakMiB,
        cvBracket?.ms ?? "",
        ratio(b.whole, cvBracket),
      ],
      [
        "fusion 5 x 24 MP: read, align, fuse",
        f.whole,
        ((f.mp / f.whole) * 1000).toFixed(1),
        f.peakMiB,
        cvFuse?.ms ?? "",
        ratio(f.whole, cvFuse),
      ],
      [
        "tone, 24 MP, into JPEG samples",
        b.tone,
        (24000 / b.tone).toFixed(1),
        "",
        cvTone?.ms ?? "",
        ratio(b.tone, cvTone),
      ],
      [
        "bring in 100 JPEGs of 6 MP",
        imported.ms,
        (600000 / imported.ms).toFixed(1),
        "",
        vips ? Math.round(vips.ms) : "",
        ratio(imported.ms, vips),
      ],
    ],
  );
  table(
    ["stage", "ms"],
    Object.entries(b).filter(([k]) =>
      ["decode", "align", "merge", "tone", "encode", "total"].includes(k),
    ),
  );
  table(["in headless Chromium, the same five frames", "ms"], Object.entries(await timePage(five)));
  console.log(`\n24 MP JPEG: ${(statSync(five[0]).size / 2 ** 20).toFixed(1)} MiB`);
}
if (part !== "short") {
  table(
    ["frames of 6 MP", "read, align, merge ms", "ms a frame", "peak MiB"],
    [2, 4, 8, 16, 32].map((n) => {
      const r = merge(frames(6, 32).filter((_, i) => i % (32 / n) === 0));
      return [n, r.whole, Math.round(r.whole / n), r.peakMiB];
    }),
  );
  table(
    ["MP, 3 frames", "read, align, merge ms", "ms a MP", "peak MiB"],
    [6, 12, 24, 48, 96].map((mp) => {
      const r = merge(frames(mp, 3));
      return [mp, r.whole, (r.whole / r.mp).toFixed(1), r.peakMiB];
    }),
  );
}
