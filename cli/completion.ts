import { SPACE_IDS } from "../core/colour/spaces";
import { KINDS } from "../pipeline/recipe/kinds";
import { settingNames } from "../pipeline/settings/reference";
import { out, parse, usage } from "./arguments";
import { COMMAND_HELP, type Command } from "./help";

/** Options of a command, by its help. */
const optionsOf = (command: Command): string[] => [
  ...new Set([...(COMMAND_HELP[command].match(/--[a-z][a-z-]*/g) ?? []), "--help"]),
];

/** What some options take, where it is one of a few. */
const VALUES: Readonly<Record<string, string>> = {
  "--as": KINDS.join(" "),
  "--depth": "8 16 32f",
  "--space": SPACE_IDS.join(" "),
};

/** A script for bash: it completes commands, their options, and what some of these take. */
function bashScript(): string {
  const commands = Object.keys(COMMAND_HELP) as Command[];
  const settings = settingNames().map((name) => `${name}=`);
  const values = Object.entries({ ...VALUES, "--set": settings.join(" ") });
  return `# completes rhizome: source it, or put it where your shell looks for completions
_rhizome() {
  local word="\${COMP_WORDS[COMP_CWORD]}" before="\${COMP_WORDS[COMP_CWORD-1]}" words=""
  COMPREPLY=()
  case "$before" in
${values.map(([option, some]) => `    ${option}) words="${some}" ;;`).join("\n")}
  esac
  if [ "$COMP_CWORD" = 1 ]; then
    words="${commands.join(" ")} --help --version"
  elif [ -z "$words" ] && [ "\${word:0:1}" = - ]; then
    case "\${COMP_WORDS[1]}" in
${commands.map((name) => `      ${name}) words="${optionsOf(name).join(" ")}" ;;`).join("\n")}
    esac
  fi
  [ -z "$words" ] && return
  COMPREPLY=($(compgen -W "$words" -- "$word"))
  # a setting goes on with its value
  case "\${COMPREPLY[0]}" in *=) compopt -o nospace 2>/dev/null ;; esac
}
complete -o default -F _rhizome rhizome`;
}

const SCRIPTS: Readonly<Record<string, () => string>> = {
  bash: bashScript,
  zsh: () => `autoload -U +X bashcompinit && bashcompinit\n${bashScript()}`,
};

/** Prints a script by which a shell completes what is typed. */
export function completion(args: string[]): Promise<void> {
  const { positionals } = parse(args, {});
  const script = SCRIPTS[positionals[0] ?? ""];
  if (positionals.length !== 1 || !script) throw usage("completion is for bash or zsh");
  out(script());
  return Promise.resolve();
}
