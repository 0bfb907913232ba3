// A web server that knows nothing of the application: files as they are, no headers of its own, 404
// for the rest. Asked for /publish, it has a newer version from then on.
import { createReadStream, existsSync, readFileSync, statSync } from "node:fs";
import { createServer } from "node:http";
import { extname, join, normalize } from "node:path";

const TYPES = {
  ".html": "text/html",
  ".js": "text/javascript",
  ".css": "text/css",
  ".svg": "image/svg+xml",
  ".wasm": "application/wasm",
  ".woff2": "font/woff2",
};
let version = 1;
const server = createServer((req, res) => {
  const path = normalize(decodeURIComponent(new URL(req.url, "http://x").pathname));
  if (path === "/publish") {
    version++;
    res.writeHead(200).end();
    return;
  }
  const file = join("build/app/client", path === "/" ? "index.html" : path);
  if (!existsSync(file) || statSync(file).isDirectory()) {
    res.writeHead(404).end("not here");
    return;
  }
  res.writeHead(200, { "Content-Type": TYPES[extname(file)] ?? "application/octet-stream" });
  if (path === "/serviceWorker.js") res.end(`${readFileSync(file, "utf8")}\n// ${version}`);
  else createReadStream(file).pipe(res);
}).listen(0, "127.0.0.1", () => console.log(`http://127.0.0.1:${server.address().port}`));
