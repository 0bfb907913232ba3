import { readFileSync } from "node:fs";
import { createServer as createPlainServer, type Server } from "node:http";
import { createServer as createSecureServer } from "node:https";
import { fileURLToPath } from "node:url";
import { createApp } from "./app";
import { allowedHosts, isLoopback } from "./hosts";

const { env } = process;
const port = Number(env["PORT"] ?? 4173);
const host = env["HOST"] ?? "127.0.0.1";
const [certificate, key] = [env["CERTIFICATE"], env["KEY"]];
const isSecure = certificate !== undefined && key !== undefined;

const app = createApp({
  client: fileURLToPath(new URL("../app/client", import.meta.url)),
  demo: fileURLToPath(new URL("../../demo/frames", import.meta.url)),
  hosts: allowedHosts(host, (env["ALLOWED_HOSTS"] ?? "").split(/[\s,]+/).filter(Boolean)),
});

/** Ends the server with a sentence. */
function fail(error: NodeJS.ErrnoException): never {
  process.stderr.write(
    error.code === "EADDRINUSE"
      ? `rhizome: port-in-use: port ${port} is taken (set PORT to another one)\n`
      : `rhizome: ${error.message}\n`,
  );
  process.exit(1);
}

function createServer(): Server {
  if (!isSecure) return createPlainServer(app);
  try {
    return createSecureServer({ cert: readFileSync(certificate), key: readFileSync(key) }, app);
  } catch (e) {
    return fail(e as NodeJS.ErrnoException);
  }
}

const server = createServer();
server.on("error", fail);
server.listen(port, host, () => {
  const address = server.address();
  const at = typeof address === "object" && address ? address.port : port;
  const name = host.includes(":") ? `[${host}]` : host;
  process.stdout.write(`Rhizome is at ${isSecure ? "https" : "http"}://${name}:${at}\n`);
  if (!isSecure && !isLoopback(host))
    process.stdout.write(
      "From other machines a browser merges only over HTTPS, where it may share memory between " +
        "threads: set CERTIFICATE and KEY to the files of a certificate.\n",
    );
});
