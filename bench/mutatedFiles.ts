// Reads many files that were cut or changed, in the workers that read frames, and counts what comes
// of it: node build/node/benchMutatedFiles.js FOLDER [COUNT] [SEED]
// FOLDER holds good files of any formats. A file may be read or refused with its name; anything else
// is printed.
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { extname, join } from "node:path";
import { RhizomeError } from "../core/error";
import { random } from "../core/math/random";
import { Pool } from "../pipeline/pool";
import { inspectingAllowance } from "../pipeline/allowance";
import { nodeHost } from "../runtime/hosts/node";

const [folder, count = "10000", seed = "1"] = process.argv.slice(2);
if (!folder) throw new Error("say where the good files are");
const rnd = random(Number(seed));
const pick = (n: number): number => Math.floor(rnd() * n);
/** Bytes in which most headers lie. */
const HEAD = 600;
const AT_ONCE = 3;
/** Files that take longer stay where they are, to be looked at. */
const LONG_MS = 5000;

/** Ways of damaging a file, each as likely. */
const DAMAGES: ((good: Uint8Array) => Uint8Array)[] = [
  (good) => good.slice(0, pick(good.length)),
  (good) => changed(good, 1 + pick(4), HEAD),
  (good) => changed(good, 1 + pick(20), good.length),
  (good) => {
    const bad = good.slice();
    const from = pick(bad.length);
    bad.copyWithin(from, pick(bad.length), pick(bad.length));
    return bad;
  },
  (good) => good.slice().fill(pick(2) * 255, pick(good.length)),
];

function changed(good: Uint8Array, bytes: number, within: number): Uint8Array {
  const bad = good.slice();
  for (let i = 0; i < bytes; i++) bad[pick(Math.min(within, bad.length))] = pick(256);
  return bad;
}

const good = readdirSync(folder).map((name) => ({
  ending: extname(name),
  bytes: new Uint8Array(readFileSync(join(folder, name))),
}));
const scratch = mkdtempSync(join(tmpdir(), "rhizome-mutated-"));
const pool = new Pool(nodeHost(new URL("./worker.js", import.meta.url)));
const counts = new Map<string, number>();
const strange = new Set<string>();
const slow: string[] = [];
let slowestMs = 0;
let mostBytes = 0;
let slowest = "";

/** What reading a file came to. */
async function outcomeOf(name: string, path: string, bytes: number): Promise<string> {
  const how = { subject: name, allowanceMs: inspectingAllowance(bytes) };
  const source = { name, path };
  try {
    await pool.run("inspect", { source, thumbnail: 360, signature: true }, how);
    await pool.run("clipping", { source, downscale: 1 }, how);
    return "read";
  } catch (e) {
    const error = RhizomeError.from(e);
    const { code, message } = error;
    const isPlain = message.includes(name) && !/\[object|undefined|\(\d+\.\d+\)/.test(message);
    if (!isPlain || !error.remedy) strange.add(`${code}: ${message}`);
    return code;
  }
}

/** One file after another until there are no more. */
async function readSome(numbers: Iterator<number>): Promise<void> {
  for (let next = numbers.next(); !next.done; next = numbers.next()) {
    const { ending, bytes } = good[next.value % good.length]!;
    const bad = DAMAGES[pick(DAMAGES.length)]!(bytes);
    const name = `f${next.value}${ending}`;
    const path = join(scratch, name);
    writeFileSync(path, bad);
    const began = performance.now();
    const outcome = `${ending} ${await outcomeOf(name, path, bad.length)}`;
    const ms = performance.now() - began;
    if (ms > slowestMs) [slowestMs, slowest] = [ms, outcome];
    if (ms > LONG_MS) slow.push(`${Math.round(ms)} ms\t${outcome}\t${path}`);
    counts.set(outcome, (counts.get(outcome) ?? 0) + 1);
    mostBytes = Math.max(mostBytes, process.memoryUsage().rss);
    if (ms <= LONG_MS) rmSync(path);
  }
}

const numbers = Array.from({ length: Number(count) }, (_, i) => i).values();
await Promise.all(Array.from({ length: AT_ONCE }, () => readSome(numbers)));
for (const [outcome, n] of [...counts].sort()) console.log(`${n}\t${outcome}`);
console.log(`slowest ${Math.round(slowestMs)} ms (${slowest})`);
console.log(`most memory ${Math.round(mostBytes / 2 ** 20)} MiB`);
for (const line of slow) console.log(line);
for (const message of strange) console.log(`! ${message}`);
process.exit(strange.size ? 1 : 0);
