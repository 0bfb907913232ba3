// 120 small brackets by three workers over a queue, two of them on hosts of their own where network
// namespaces can be made, while one worker after the other is killed and the queue is killed once:
// node build/node/benchStudioKills.js [BRACKETS] [SECONDS BETWEEN KILLS]
import { execFileSync, spawnSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { OwnQueue, Running } from "../../tests/cli/redis";
import { writeSmallBrackets } from "../../tests/files/smallBrackets";
import { sha256Of } from "../../cli/batch/manifest";

const [count = "120", between = "6"] = process.argv.slice(2);
const HOSTS = 2;
const LOCK_SECONDS = 10;
const dir = mkdtempSync(join(tmpdir(), "rhizome-studio-"));
const frames = join(dir, "frames");
const say = (text: string): void => console.log(text);

/** A host of its own with one cable to this one. @returns its name, or undefined where none can be made */
function makeHost(k: number): string | undefined {
  const name = `rhizome${k}`;
  const ip = (...args: string[]): boolean => spawnSync("ip", args).status === 0;
  const [here, there] = [`rz${k}a`, `rz${k}b`];
  const made =
    ip("netns", "add", name) &&
    ip("link", "add", here, "type", "veth", "peer", "name", there, "netns", name) &&
    ip("addr", "add", `10.77.${k}.1/24`, "dev", here) &&
    ip("link", "set", here, "up") &&
    ip("-n", name, "addr", "add", `10.77.${k}.2/24`, "dev", there) &&
    ip("-n", name, "link", "set", there, "up");
  return made ? name : undefined;
}

/** The pictures of a folder by name, with the sums of what they hold. */
const sums = (folder: string): Map<string, string> =>
  new Map(
    readdirSync(folder)
      .filter((name) => name.endsWith(".jpg"))
      .sort()
      .map((name) => [name, sha256Of([new Uint8Array(readFileSync(join(folder, name)))])]),
  );

await writeSmallBrackets(frames, Number(count));
const alone = join(dir, "alone");
let began = performance.now();
execFileSync(process.execPath, ["bin/rhizome", "batch", frames, "--out", alone]);
say(`one process: ${count} in ${((performance.now() - began) / 1000).toFixed(1)} s`);

const hosts = Array.from({ length: HOSTS }, (_, k) => makeHost(k + 1));
say(`workers on hosts of their own: ${hosts.filter((host) => host !== undefined).length}`);
const queue = new OwnQueue("0.0.0.0");
await queue.start();
const startWorker = (k: number): Running => {
  const host = hosts[k - 1];
  Running.through = host === undefined ? [] : ["ip", "netns", "exec", host];
  const url = host === undefined ? queue.url : queue.urlAt(`10.77.${k}.1`);
  const lock = ["--lock", String(LOCK_SECONDS)];
  const worker = new Running("work", "--queue", url, "--threads", "1", "--name", `w${k}`, ...lock);
  Running.through = [];
  return worker;
};
const workers = Array.from({ length: HOSTS + 1 }, (_, k) => startWorker(k));
const over = join(dir, "over");
began = performance.now();
const batch = new Running("batch", frames, "--out", over, "--queue", queue.url);
let kills = 0;
let queueKills = 0;
while (!batch.isOver) {
  await new Promise((resolve) => setTimeout(resolve, Number(between) * 1000));
  if (batch.isOver) break;
  const k = kills % workers.length;
  await workers[k]!.kill();
  workers[k] = startWorker(k);
  kills++;
  const done = batch.out.match(/^merged/gm)?.length ?? 0;
  if (queueKills || done < Number(count) / 2) continue;
  await queue.kill();
  await queue.start();
  queueKills++;
}
const code = await batch.end();
say(
  `over the queue: exit ${code}, ${((performance.now() - began) / 1000).toFixed(1)} s, ${kills} workers killed, the queue killed ${queueKills} times`,
);
const [expected, found] = [sums(alone), sums(over)];
const same = [...expected].filter(([name, sum]) => found.get(name) === sum).length;
say(`results: ${found.size} of ${expected.size}; the same bytes: ${same}`);
const lines = batch.out.split("\n").filter((line) => line.startsWith("merged\t"));
const reported = new Set(lines.map((line) => line.split("\t")[1]));
say(`reported: ${lines.length} lines, ${reported.size} files; half files: ${halves(over)}`);
say(batch.err.trim());
await Promise.all(workers.map((worker) => worker.kill()));
await queue.end();
for (const host of hosts) if (host !== undefined) spawnSync("ip", ["netns", "del", host]);
rmSync(dir, { recursive: true, force: true });
process.exit(0);

function halves(folder: string): number {
  return readdirSync(folder).filter((name) => name.endsWith(".part")).length;
}
