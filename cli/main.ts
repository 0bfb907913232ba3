import { RhizomeError } from "../core/error";
import { batch } from "./batch";
import { group } from "./group";
import { inspect } from "./inspect";
import { merge } from "./merge";
import { recipe } from "./recipe";

const USAGE = "usage: rhizome inspect|group|recipe|merge|batch ... (see the README)";

const [command, ...args] = process.argv.slice(2);
const commands: Record<string, (args: string[]) => Promise<void>> = {
  inspect,
  group,
  recipe,
  merge,
  batch,
};

try {
  const run = command && Object.hasOwn(commands, command) ? commands[command] : undefined;
  if (!run)
    throw new RhizomeError(
      "usage",
      command ? `there is no command "${command}"` : "no command given",
      USAGE,
    );
  await run(args);
  process.exit(0);
} catch (e) {
  const error = RhizomeError.from(e);
  process.stderr.write(
    `rhizome: ${error.code}: ${error.message}${error.remedy ? ` (${error.remedy})` : ""}\n`,
  );
  process.exit(
    ["usage", "setting-unknown", "kind-unknown", "recipe-invalid", "reference-unknown"].includes(
      error.code,
    )
      ? 2
      : 1,
  );
}
