import type { StackFrame as Member } from "../pipeline/work";
import type { FileSource } from "../runtime/files";
import { RhizomeError } from "../core/error";
import { Pool } from "../pipeline/pool";
import { nearestSaid } from "../pipeline/settings/nearest";
import { nodeHost } from "../runtime/hosts/node";
import { type ParseArgsConfig, parseArgs } from "node:util";

export type StackFrame = Member<FileSource>;

export const VERSION = "0.1.0";
/** What a folder of kept merges may take when nothing is said. */
export const CACHE_MIB = 4096;
export const out = (text: string): void => {
  process.stdout.write(`${text}\n`);
};
export const usage = (message: string): RhizomeError =>
  new RhizomeError("usage", message, "rhizome --help lists the calls");
export const openPool = (threads?: number, memoryMiB?: number): Pool =>
  new Pool(
    nodeHost(new URL("./worker.js", import.meta.url), threads),
    memoryMiB ? memoryMiB * 2 ** 20 : undefined,
  );

export function parse<T extends NonNullable<ParseArgsConfig["options"]>>(
  args: string[],
  options: T,
) {
  try {
    return parseArgs({ args, options, allowPositionals: true });
  } catch (e) {
    const { message } = e as Error;
    const unknown = /^Unknown option '--([^']*)'/.exec(message)?.[1];
    if (unknown === undefined) throw usage(message.split("\n")[0]!);
    const nearest = nearestSaid(unknown, Object.keys(options), "--");
    throw usage(`there is no option --${unknown}${nearest}`);
  }
}

/** Says something beside the results. */
export const say = (text: string): void => {
  process.stderr.write(`${text}\n`);
};

export const complain = (e: RhizomeError): void => {
  say(`rhizome: ${e.code}: ${e.message} (${e.remedy})`);
};

export function gapOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const n = Number(text);
  if (!(n >= 0)) throw usage(`--gap is in seconds, not "${text}"`);
  return n;
}

/** A number of at least 1 that an option was given. @throws RhizomeError `usage` */
export function numberOf(name: string, text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const n = Number(text);
  if (!(n >= 1)) throw usage(`--${name} needs a number, not "${text}"`);
  return n;
}
