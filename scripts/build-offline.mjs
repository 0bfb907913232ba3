// Bundles the service worker with the list of the application's files, after the application is
// built.
import { createHash } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { join, relative, sep } from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const root = fileURLToPath(new URL("..", import.meta.url));
const client = join(root, "build/app/client");
const WORKER = "serviceWorker.js";

const files = readdirSync(client, { recursive: true, withFileTypes: true })
  .filter((entry) => entry.isFile() && entry.name !== WORKER && !entry.name.endsWith(".map"))
  .map((entry) => join(entry.parentPath, entry.name))
  .sort()
  .map((path) => {
    const url = `/${relative(client, path).split(sep).join("/")}`;
    // names in there change with what the files hold
    const isHashed = url.startsWith("/assets/");
    const digest = () => createHash("sha256").update(readFileSync(path)).digest("hex").slice(0, 16);
    return { url, revision: isHashed ? null : digest() };
  });

await build({
  absWorkingDir: root,
  entryPoints: ["app/offline/serviceWorker.ts"],
  outfile: join(client, WORKER),
  bundle: true,
  minify: true,
  logLevel: "warning",
  define: {
    APPLICATION_FILES: JSON.stringify(files),
    "process.env.NODE_ENV": '"production"',
    "import.meta.env.PROD": "true",
  },
});
