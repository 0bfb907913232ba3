// Writes NOTICES.md: what ships with the application, and its licences; with --check it only says
// whether it is up to date. What is named in package.json as a dependency ships, and all that those
// depend on.
import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import { writeOrCheck } from "./generatedDoc.mjs";

const FILE = "NOTICES.md";
/** Native libraries compiled into wasm modules that ship with the packages. */
const INSIDE = {
  "wasm-vips":
    "libvips (LGPL-2.1-or-later) and its codecs: libjpeg-turbo, libpng, libtiff, libwebp, libaom, libheif, Little CMS",
  "libraw-wasm": "LibRaw (LGPL-2.1-only or CDDL-1.0)",
  "@fontsource-variable/commissioner": "the typeface Commissioner (OFL-1.1)",
};

const lock = JSON.parse(await readFile("package-lock.json", "utf8")).packages;

/** Where a package that another one asks for lies, as Node resolves it. */
function resolve(from, name) {
  for (let at = from; ; at = at.slice(0, Math.max(0, at.lastIndexOf("node_modules/") - 1))) {
    const path = `${at ? `${at}/` : ""}node_modules/${name}`;
    if (lock[path]) return path;
    if (!at) return undefined;
  }
}

function shipped() {
  const found = new Set();
  const visit = (from, names) => {
    for (const name of names) {
      const path = resolve(from, name);
      if (!path || found.has(path)) continue;
      found.add(path);
      visit(path, Object.keys(lock[path].dependencies ?? {}));
    }
  };
  visit("", Object.keys(lock[""].dependencies));
  return [...found].sort();
}

const nameOf = (path) => path.slice(path.lastIndexOf("node_modules/") + "node_modules/".length);

/** The licence as the package itself names it. */
async function licenceOf(path) {
  const own = JSON.parse(await readFile(join(path, "package.json"), "utf8"));
  const licence = own.license ?? own.licenses?.map(({ type }) => type).join(" or ");
  return typeof licence === "object" ? licence.type : licence;
}

async function rowOf(path) {
  const name = nameOf(path);
  const licence = await licenceOf(path);
  if (!licence) throw new Error(`${name} names no licence`);
  const files = (await readdir(path)).filter((file) => /^(licen[cs]e|copying|notice)/i.test(file));
  const texts = files.map((file) => `\`${path}/${file}\``).join(", ");
  return `| ${name} ${lock[path].version} | ${licence} | ${texts} | ${INSIDE[name] ?? ""} |`;
}

const rows = await Promise.all(shipped().map(rowOf));
await writeOrCheck(
  FILE,
  "docs:notices",
  `# Notices

Made by \`npm run docs:notices\`. These packages ship with the application or run its server.

| package | licence | its text, once installed | what it contains |
|---|---|---|---|
${rows.join("\n")}`,
);
