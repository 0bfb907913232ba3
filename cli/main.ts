import { RhizomeError } from "../core/error";
import { nearestSaid } from "../pipeline/settings/nearest";
import { out, VERSION } from "./arguments";
import { batch } from "./batch/batch";
import { completion } from "./completion";
import { group } from "./group";
import { helpOf, type Command } from "./help";
import { inspect } from "./inspect";
import { look } from "./look";
import { merge } from "./merge";
import { recipe } from "./recipe";

const COMMANDS: Readonly<Record<Command, (args: string[]) => Promise<void>>> = {
  inspect,
  group,
  recipe,
  merge,
  batch,
  // what only studios need is loaded when it is called
  work: async (args) => (await import("./queue/work")).work(args),
  queue: async (args) => (await import("./queue/queue")).queue(args),
  look,
  completion,
};
/** Errors of a wrong call; all others are of work that failed. */
const WRONG_CALLS = [
  "usage",
  "look-unknown",
  "look-invalid",
  "setting-unknown",
  "kind-unknown",
  "recipe-invalid",
  "reference-unknown",
];

const isCommand = (name: string | undefined): name is Command =>
  name !== undefined && Object.hasOwn(COMMANDS, name);

async function run([name, ...args]: string[]): Promise<void> {
  if (name === "--version") return out(VERSION);
  if (name === "--help" || name === "help") return out(helpOf());
  if (!isCommand(name))
    throw new RhizomeError(
      "usage",
      name
        ? `there is no command "${name}"${nearestSaid(name, Object.keys(COMMANDS))}`
        : "no command given",
      "rhizome --help lists them",
    );
  if (args.includes("--help")) return out(helpOf(name));
  await COMMANDS[name](args);
}

try {
  await run(process.argv.slice(2));
  process.exit(0);
} catch (e) {
  const error = RhizomeError.from(e);
  process.stderr.write(
    `rhizome: ${error.code}: ${error.message}${error.remedy ? ` (${error.remedy})` : ""}\n`,
  );
  process.exit(WRONG_CALLS.includes(error.code) ? 2 : 1);
}
