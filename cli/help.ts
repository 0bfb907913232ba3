import { settingLines } from "../pipeline/settings/reference";

/** What each command is called with, and what it does. */
export const COMMAND_HELP = {
  inspect: `rhizome inspect FILE... [--json]
    what each file is: format, size, depth, profile, exposure, focal length, time, and the share of
    its pixels that is clipped at each end`,
  group: `rhizome group DIR [--json] [--gap SECONDS]
    the stacks found in a folder, and why`,
  recipe: `rhizome recipe bracket|panorama|focus
    the default recipe of a kind as JSON`,
  merge: `rhizome merge FILE... --as bracket|panorama|focus --out FILE
    [--recipe FILE.json] [--look NAME|FILE.json] [--amount 0..1.5]
    [--set step.key=value]... [--report FILE.json]
    [--depth 8|16|32f] [--space srgb|p3|adobe|prophoto|rec2020|linear]
    [--threads N] [--memory MiB] [--cache DIR] [--cache-size MiB] [--progress]
    merges the frames; the format follows the file's ending: .tif .jpg .png .exr .hdr`,
  look: `rhizome look list|show NAME
    the looks that are built in; one of them, or of a file, as JSON`,
  batch: `rhizome batch DIR --out DIR [--look NAME|FILE.json] [--amount 0..1.5]
    [--delivery NAME|FILE.json]... [--resume] [--shard I/N] [--gap SECONDS] [--log FILE] [--progress]
    [--queue redis://HOST[:PORT][/N] [--due TIME] [--priority first|usual|last]]
    groups, merges, tones and delivers a whole folder, one line a file; every --delivery is a file of
    each stack, made from one merge (built in: client, web, next program, print, hdr display); with
    --resume files that are there are skipped; beside each NAME.jpg goes NAME.rhizome.json, a recipe
    by which merge makes the same file again; --shard is for one of N machines, and --log gets lines
    of JSON; with --queue the stacks become jobs that workers take, the ones that are due first
    before others, and it reports until all are done`,
  work: `rhizome work --queue redis://HOST[:PORT][/N] [--threads N] [--memory MiB]
    [--rate JOBS] [--lock SECONDS] [--metrics [HOST:]PORT] [--name NAME]
    takes jobs from the queue until stopped, as many at once as fit in --memory and at most --rate an
    hour; the first SIGTERM or Ctrl-C finishes what is at work, the second gives it back; a job of a
    worker that ended goes to another one within --lock (60); --metrics serves Prometheus text`,
  queue: `rhizome queue status|metrics|pause|drain|resume|retry|clear --queue redis://HOST[:PORT][/N] [--json]
    what waits, what is at work and what was set aside; metrics as Prometheus text; pause begins
    nothing more, drain also waits until nothing is at work; retry tries again what was set aside,
    clear takes out all that waits`,
  completion: `rhizome completion bash|zsh
    a script by which the shell completes commands, options and settings`,
} as const;
export type Command = keyof typeof COMMAND_HELP;

const LINE = 96;

/** A text in lines of at most LINE characters, each begun with the same indentation. */
function wrapped(text: string, indentation: string): string {
  const lines: string[] = [];
  let line = indentation;
  for (const word of text.split(" ")) {
    if (line.length + word.length + 1 > LINE && line.trim()) {
      lines.push(line);
      line = indentation;
    }
    line += line === indentation ? word : ` ${word}`;
  }
  return [...lines, line].join("\n");
}

/** Every setting with what it takes and does, as `--set` knows it. */
function settingsHelp(): string {
  return settingLines()
    .flatMap(({ lines }) => lines)
    .map(({ name, values, unit, defaults, when, help }) => {
      const takes = `${values.replaceAll("\\`", "")}${unit ? `, ${unit}` : ""}; ${defaults}`;
      const only = when ? ` Only: ${when.replaceAll("\\`", "")}.` : "";
      return `  ${name}\n${wrapped(takes, "      ")}\n${wrapped(help + only, "      ")}`;
    })
    .join("\n");
}

/** The help of a command, or of all of them. */
export function helpOf(command?: Command): string {
  if (!command)
    return `${Object.values(COMMAND_HELP).join("\n")}
rhizome COMMAND --help, rhizome --version`;
  if (command !== "merge") return COMMAND_HELP[command];
  return `${COMMAND_HELP.merge}

Settings, for --set step.key=value: what each takes, its default, and what it does

${settingsHelp()}`;
}
