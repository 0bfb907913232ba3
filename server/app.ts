import { readFileSync } from "node:fs";
import { join } from "node:path";
import compression from "compression";
import express, { type ErrorRequestHandler, type Express } from "express";
import { securityHeaders } from "./headers";
import { onlyFor } from "./hosts";
import { isScreen, screenPaths } from "./screens";

export interface ServerOptions {
  /** the folder of the built application */
  client: string;
  /** the folder of the demo's frames */
  demo: string;
  /** names that the server answers to */
  hosts: ReadonlySet<string>;
}

/** Names of files in it change with what they hold. */
const FOR_EVER = "public, max-age=31536000, immutable";
/** Kept, but asked for again each time: the answer is short where nothing changed. */
const ASK_AGAIN = "no-cache";

/** Says what went wrong in the client's terms, and nothing of the server. */
const answerErrors: ErrorRequestHandler = (
  error: { status?: number },
  _request,
  response,
  next,
) => {
  if (response.headersSent) {
    next(error);
    return;
  }
  const status = error.status !== undefined && error.status < 500 ? error.status : 500;
  const text = status < 500 ? "This request cannot be read.\n" : "The server failed.\n";
  response.status(status).type("text").set("Cache-Control", "no-store").send(text);
};

/** The web server: the application with the headers that it needs, and the demo's frames. */
export function createApp({ client, demo, hosts }: ServerOptions): Express {
  const page = readFileSync(join(client, "index.html"), "utf8");
  const screens = screenPaths(client);
  const app = express();
  app.disable("x-powered-by");
  app.use(securityHeaders(page));
  app.use(onlyFor(hosts));
  app.use((request, response, next) => {
    if (["GET", "HEAD"].includes(request.method)) next();
    else response.status(405).set("Allow", "GET, HEAD").type("text").send("Only for reading.\n");
  });
  // photographs are packed already
  app.use("/demo", express.static(demo, { maxAge: "1h", index: false }));
  app.use(
    compression({ filter: (_request, response) => isPackable(response.get("Content-Type")) }),
  );
  app.use(
    express.static(client, {
      index: false,
      redirect: false,
      setHeaders: (response, path) =>
        void response.set("Cache-Control", path.includes("/assets/") ? FOR_EVER : ASK_AGAIN),
    }),
  );
  app.use((request, response) => {
    const isKnown = isScreen(screens, request.path);
    response.status(isKnown ? 200 : 404).set("Cache-Control", ASK_AGAIN);
    if (isKnown || request.accepts(["text", "html"]) === "html") response.type("html").send(page);
    else response.type("text").send("There is nothing at this address.\n");
  });
  app.use(answerErrors);
  return app;
}

const isPackable = (type: string | undefined): boolean =>
  /^(text\/|application\/(javascript|json|wasm|manifest\+json)|image\/svg)/.test(type ?? "");
