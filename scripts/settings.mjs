// Writes docs/settings.md from the steps' descriptions of their settings; with --check it only says
// whether that file is up to date.
import { build } from "esbuild";
import { writeOrCheck } from "./generatedDoc.mjs";

const FILE = "docs/settings.md";

/** The settings of all steps, bundled: their descriptions are TypeScript. */
async function loadLines() {
  const bundled = await build({
    entryPoints: ["pipeline/settings/reference.ts"],
    bundle: true,
    write: false,
    platform: "node",
    target: "node20",
    format: "esm",
    logLevel: "error",
  });
  const source = Buffer.from(bundled.outputFiles[0].contents).toString("base64");
  return (await import(`data:text/javascript;base64,${source}`)).settingLines();
}

const cell = (text) => text.replaceAll("|", "\\|");

function tableOf(lines) {
  const rows = lines.map(({ name, label, values, unit, defaults, when, help }) =>
    [
      `\`${name}\``,
      label,
      `${values}${unit ? `, ${unit}` : ""}`,
      `\`${defaults}\``,
      when || "always",
      help,
    ]
      .map(cell)
      .join(" | "),
  );
  return [
    "| setting | label | values | default | has an effect | what it does |",
    "|---|---|---|---|---|---|",
    ...rows.map((row) => `| ${row} |`),
  ].join("\n");
}

const sections = (await loadLines())
  .filter(({ lines }) => lines.length)
  .map(({ step, lines }) => `## ${step}\n\n${tableOf(lines)}`);
await writeOrCheck(
  FILE,
  "docs:settings",
  `# Settings

Made by \`npm run docs:settings\` from the descriptions in \`pipeline/*/step.ts\`. Set with
\`--set step.key=value\` on the command line, or in a recipe file. \`bin/rhizome recipe KIND\` prints
the defaults of each kind.

${sections.join("\n\n")}`,
);
