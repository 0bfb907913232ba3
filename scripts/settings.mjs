// Writes docs/settings.md from the schemas of the steps; with --check it only says whether that
// file is up to date.
import { build } from "esbuild";
import { writeOrCheck } from "./generatedDoc.mjs";

const FILE = "docs/settings.md";

/** The steps, bundled: their schemas are TypeScript. */
async function loadSteps() {
  const bundled = await build({
    entryPoints: ["pipeline/registry.ts"],
    bundle: true,
    write: false,
    platform: "node",
    format: "esm",
    logLevel: "error",
  });
  const source = Buffer.from(bundled.outputFiles[0].contents).toString("base64");
  return (await import(`data:text/javascript;base64,${source}`)).STEPS;
}

/** What a schema lets through, in words. */
function valuesOf(schema) {
  if (schema.pipe) return valuesOfPipe(schema);
  if (schema.type === "picklist") return schema.options.map(code).join(", ");
  if (schema.type === "literal") return code(schema.literal);
  if (schema.type === "union") return schema.options.map(valuesOf).join("; ");
  if (schema.type === "variant") return "one of several shapes";
  if (schema.type === "array") return `list: ${valuesOf(schema.item)}`;
  if (schema.type === "tuple") return schema.items.map(valuesOf).join(" and ");
  if (schema.type === "optional" || schema.type === "exact_optional") {
    return valuesOf(schema.wrapped);
  }
  if (schema.type === "nullable") return `${valuesOf(schema.wrapped)}; nothing`;
  if (schema.type === "object" || schema.type === "strict_object") {
    return `{ ${Object.keys(schema.entries).join(", ")} }`;
  }
  if (schema.type === "record") return "values by name";
  return schema.type;
}

function valuesOfPipe({ pipe: [base, ...rules], ...schema }) {
  const bound = (kind) => rules.find((rule) => rule.type === kind)?.requirement;
  const least = bound("min_value");
  const most = bound("max_value");
  const whole = rules.some((rule) => rule.type === "integer") ? "whole number" : "number";
  if (base.type === "number" && least !== undefined && most !== undefined) {
    return `${whole}, ${least} to ${most}`;
  }
  if (base.type === "number") return whole;
  const length = bound("length");
  const inner = valuesOf({ ...schema, ...base, pipe: undefined });
  return length === undefined ? inner : `${inner}, ${length} of them`;
}

const code = (value) => `\`${value}\``;
const cell = (text) => text.replaceAll("|", "\\|");

function tableOf(name, { schema, defaults }) {
  const rows = Object.entries(schema.entries).map(
    ([key, entry]) =>
      `| \`${name}.${key}\` | ${cell(valuesOf(entry))} | \`${cell(JSON.stringify(defaults[key]) ?? "none")}\` |`,
  );
  return ["| setting | values | default |", "|---|---|---|", ...rows].join("\n");
}

const steps = await loadSteps();
const sections = Object.entries(steps)
  .filter(([, { settings }]) => Object.keys(settings.schema.entries).length)
  .map(([name, { settings }]) => `## ${name}\n\n${tableOf(name, settings)}`);
await writeOrCheck(
  FILE,
  "docs:settings",
  `# Settings

Made by \`npm run docs:settings\` from the schemas in \`pipeline/*/step.ts\`. Set with
\`--set step.key=value\` on the command line, or in a recipe file. The defaults are a bracket's;
\`bin/rhizome recipe KIND\` prints those of each kind.

${sections.join("\n\n")}`,
);
