// Compiles the AssemblyScript kernels twice, for shared and for private memory, and puts the bytes
// into one module.
import { execFileSync } from "node:child_process";
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));
mkdirSync(`${root}kernels/generated`, { recursive: true });
const compiled = {};
for (const kind of ["shared", "private"]) {
  const out = `${root}kernels/generated/${kind}.wasm`;
  const args = [
    "kernels/src/index.ts",
    "-o",
    out,
    "-O3",
    "--noAssert",
    "--runtime",
    "stub",
    "--importMemory",
    "--initialMemory",
    "2",
    "--maximumMemory",
    "65536",
    "--enable",
    "simd",
    "--enable",
    "bulk-memory",
  ];
  if (kind === "shared") args.push("--sharedMemory", "--enable", "threads");
  execFileSync(process.execPath, [`${root}node_modules/assemblyscript/bin/asc.js`, ...args], {
    cwd: root,
    stdio: "inherit",
  });
  compiled[kind] = readFileSync(out).toString("base64");
}
writeFileSync(
  `${root}kernels/generated/wasm.ts`,
  `export const SHARED = "${compiled.shared}";\nexport const PRIVATE = "${compiled.private}";\n`,
);
