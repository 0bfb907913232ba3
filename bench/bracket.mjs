// Aligns and merges five JPEGs through the built command line and prints time by stage beside native OpenCV's time.
//   npm run bench -- DIR    with DIR as made by the project's speed reference (bracket/b0..b4.jpg)
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const dir = process.argv[2];
if (!dir) { console.error("usage: npm run bench -- DIR (with a folder bracket/ of frames in it)"); process.exit(2); }
const out = mkdtempSync(join(tmpdir(), "rhizome-bench-"));
const files = readdirSync(join(dir, "bracket")).filter((f) => f.endsWith(".jpg")).sort().map((f) => join(dir, "bracket", f));
const runs = [1, 2, 3].map(() => {
  execFileSync("bin/rhizome", ["merge", ...files, "--as", "bracket", "--out", join(out, "o.jpg"), "--report", join(out, "r.json")], { stdio: ["ignore", "ignore", "inherit"] });
  return JSON.parse(readFileSync(join(out, "r.json"), "utf8"));
});
runs.sort((a, b) => a.timingsMs.total - b.timingsMs.total);
console.log(JSON.stringify({ job: "bracket", frames: files.length, timingsMs: runs[1].timingsMs, readAlignMergeMs: runs[1].timingsMs.decode + runs[1].timingsMs.align + runs[1].timingsMs.merge, peakMiB: Math.round(runs[1].peakMemoryBytes / 2 ** 20) }));
