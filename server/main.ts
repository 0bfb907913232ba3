import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import express from "express";

const client = fileURLToPath(new URL("../app/client", import.meta.url));
const demo = fileURLToPath(new URL("../../demo/frames", import.meta.url));
const port = Number(process.env["PORT"] ?? 4173);
const host = process.env["HOST"] ?? "127.0.0.1";

/**
 * The router writes its start-up into the page: those scripts are allowed by their hashes, and no
 * others.
 */
const page = readFileSync(`${client}/index.html`, "utf8");
const hashes = [...page.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)].map(
  (m) => `'sha256-${createHash("sha256").update(m[1]!).digest("base64")}'`,
);
const policy = [
  "default-src 'self'",
  `script-src 'self' 'wasm-unsafe-eval' ${[...new Set(hashes)].join(" ")}`,
  "worker-src 'self'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' blob: data:",
  "connect-src 'self'",
  "font-src 'self'",
  "object-src 'none'",
  "base-uri 'none'",
  "form-action 'self'",
  "frame-ancestors 'none'",
].join("; ");
// libvips makes its bindings from strings at run time: allowed in the decoding workers, which see
// no page, and nowhere else
const workerPolicy =
  "default-src 'none'; script-src 'self' 'wasm-unsafe-eval' 'unsafe-eval'; worker-src 'self'; connect-src 'self' blob:";
const isWorker = (path: string): boolean =>
  /^\/(vips|libraw)\/|\/(webWorker|helperWorker)-[\w-]+\.js$/.test(path);

const app = express();
app.disable("x-powered-by");
app.use((req, res, next) => {
  res.set({
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Embedder-Policy": "require-corp",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Content-Security-Policy": isWorker(req.path) ? workerPolicy : policy,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
  });
  next();
});
app.use("/demo", express.static(demo, { maxAge: "1h" }));
app.use(
  express.static(client, {
    index: false,
    setHeaders: (res, path) => {
      if (path.includes("/assets/"))
        res.set("Cache-Control", "public, max-age=31536000, immutable");
    },
  }),
);
app.get("/{*path}", (req, res) => {
  if (/\.\w+$/.test(req.path)) res.status(404).type("text").send("not found");
  else res.type("html").send(page);
});

const server = app.listen(port, host, () => {
  const address = server.address();
  const at = typeof address === "object" && address ? address.port : port;
  process.stdout.write(`Rhizome is at http://${host}:${at}\n`);
});
server.on("error", (e: NodeJS.ErrnoException) => {
  process.stderr.write(
    e.code === "EADDRINUSE"
      ? `rhizome: port-in-use: port ${port} is taken (set PORT to another one)\n`
      : `rhizome: ${e.message}\n`,
  );
  process.exit(1);
});
