import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { request, type IncomingMessage, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { brotliDecompressSync } from "node:zlib";
import { createApp } from "./app";
import { allowedHosts } from "./hosts";

const PAGE = "<!doctype html><title>Rhizome</title><script>start()</script>";
const MODULE = "x".repeat(5000);
let folder: string;
let server: Server;
let port: number;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "rhizome-server-"));
  mkdirSync(join(folder, "client/assets"), { recursive: true });
  mkdirSync(join(folder, "demo"));
  const routes = {
    root: { path: "" },
    home: { index: true },
    shoots: { path: "shoots" },
    stack: { path: "shoots/:shoot/:stack" },
    missing: { path: "*" },
  };
  const files: Record<string, string> = {
    "client/index.html": PAGE,
    "client/vips.wasm": MODULE,
    "client/assets/manifest-1a2b.js": `window.__reactRouterManifest=${JSON.stringify({ routes })};`,
    "client/assets/webWorker-1a2b.js": MODULE,
    "demo/a.jpg": MODULE,
    "secret.txt": "not yours",
  };
  for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, name), text);
  const app = createApp({
    client: join(folder, "client"),
    demo: join(folder, "demo"),
    hosts: allowedHosts("127.0.0.1", ["studio.example"]),
  });
  server = await new Promise<Server>((ok) => {
    const listening: Server = app.listen(0, "127.0.0.1", () => ok(listening));
  });
  port = (server.address() as AddressInfo).port;
});
afterAll(async () => {
  await new Promise((ok) => server.close(ok));
  rmSync(folder, { recursive: true, force: true });
});

interface Answer {
  status: number;
  headers: IncomingMessage["headers"];
  body: Buffer;
}

/** Asks for exactly this path, which a client would tidy up first. */
const get = (path: string, headers: Record<string, string> = {}, method = "GET"): Promise<Answer> =>
  new Promise((ok, no) => {
    const options = { host: "127.0.0.1", port, path, headers, method, agent: false };
    const asked = request(options, (message) => {
      const parts: Buffer[] = [];
      message.on("data", (part: Buffer) => parts.push(part));
      message.on("end", () =>
        ok({
          status: message.statusCode!,
          headers: message.headers,
          body: Buffer.concat(parts),
        }),
      );
    });
    asked.on("error", no);
    asked.end();
  });
const HTML = { Accept: "text/html" };

describe("the server", () => {
  test.each(["/%", "/%E0%A4%A", "/assets/%ff", "/demo/%c0%ae", "/a%00b"])(
    "answers the path %s without a word of itself",
    async (path) => {
      const { status, body } = await get(path, HTML);
      expect(status).toBeGreaterThanOrEqual(400);
      expect(status).toBeLessThan(500);
      expect(body.toString()).not.toMatch(/at .*\.(js|ts):|node_modules/);
      expect(body.toString()).not.toContain(folder);
    },
  );

  test.each(["/../secret.txt", "/demo/../../secret.txt", "/assets/..%2f..%2fsecret.txt"])(
    "gives nothing from beside its folders: %s",
    async (path) => {
      const { body } = await get(path);
      expect(body.toString()).not.toContain("not yours");
    },
  );

  test("packs what can be packed, and says how long it may be kept", async () => {
    const wasm = await get("/vips.wasm", { "Accept-Encoding": "br, gzip" });
    expect(wasm.headers["content-encoding"]).toBe("br");
    expect(brotliDecompressSync(wasm.body).toString()).toBe(MODULE);
    expect(wasm.headers["cache-control"]).toBe("no-cache");
    const hashed = await get("/assets/webWorker-1a2b.js");
    expect(hashed.headers["cache-control"]).toContain("immutable");
    const again = await get("/vips.wasm", { "If-None-Match": String(wasm.headers["etag"]) });
    expect([again.status, again.body.length]).toEqual([304, 0]);
    const photograph = await get("/demo/a.jpg", { "Accept-Encoding": "br" });
    expect(photograph.headers["content-encoding"]).toBeUndefined();
  });

  test.each([
    ["/", 200],
    ["/shoots", 200],
    ["/shoots/a/b", 200],
    ["/shoots/a/b/c/d", 404],
    ["/nothing", 404],
    ["/assets/gone.js", 404],
  ])("%s is answered with %d", async (path, status) => {
    const answer = await get(path, HTML);
    expect(answer.status).toBe(status);
    expect(answer.body.toString()).toBe(PAGE);
  });

  test("what is not a page and is not there is said in a sentence", async () => {
    const { status, headers, body } = await get("/assets/gone.js", { Accept: "*/*" });
    expect([status, body.toString().includes("<")]).toEqual([404, false]);
    expect(headers["content-type"]).toContain("text/plain");
  });

  test("isolates the page and asks for no sensor, on every answer", async () => {
    for (const path of ["/", "/nothing", "/%", "/vips.wasm"]) {
      const { headers } = await get(path);
      expect(headers["cross-origin-opener-policy"]).toBe("same-origin");
      expect(headers["cross-origin-embedder-policy"]).toBe("require-corp");
      expect(headers["permissions-policy"]).toContain("geolocation=()");
      expect(headers["content-security-policy"]).toMatch(/default-src '(self|none)'/);
      expect(headers["x-powered-by"]).toBeUndefined();
    }
  });

  test.each([
    ["127.0.0.1:4173", 200],
    ["LOCALHOST", 200],
    ["[::1]:80", 200],
    ["studio.example", 200],
    ["elsewhere.example", 421],
    ["127.0.0.1.elsewhere.example", 421],
  ])("under the name %s it answers with %d", async (host, status) => {
    expect((await get("/", { Host: host })).status).toBe(status);
  });

  test("is for reading only", async () => {
    expect((await get("/", {}, "POST")).status).toBe(405);
  });
});
