import { hostname, networkInterfaces } from "node:os";
import type { RequestHandler } from "express";

const LOOPBACK = ["localhost", "127.0.0.1", "::1"];
/** Addresses that stand for all of a machine's. */
const ANY = ["0.0.0.0", "::"];

export const isLoopback = (host: string): boolean => LOOPBACK.includes(host);

/** Under which names this machine is reached by others. */
function ownNames(): string[] {
  const addresses = Object.values(networkInterfaces()).flatMap((all) => all ?? []);
  const name = hostname().toLowerCase();
  return [...addresses.map(({ address }) => address.split("%")[0]!), name, `${name}.local`];
}

/**
 * The names that the server answers to. A page from elsewhere may point a name of its own at this
 * machine; it gets no answer.
 *
 * @param host  what the server listens on
 * @param more  names that the user allows
 */
export function allowedHosts(host: string, more: readonly string[]): Set<string> {
  const own = ANY.includes(host) ? ownNames() : [host];
  return new Set([...LOOPBACK, ...own, ...more].map((name) => name.toLowerCase()));
}

/** A Host header's name, without port and brackets. */
const nameOf = (header: string): string =>
  header
    .replace(/:\d+$/, "")
    .replace(/^\[|\]$/g, "")
    .toLowerCase();

/** Names below it are this machine's alone (RFC 6761). */
const isLocal = (name: string): boolean => name.endsWith(".localhost");

/** Answers only requests for one of the names. */
export function onlyFor(names: ReadonlySet<string>): RequestHandler {
  return (request, response, next) => {
    const name = nameOf(request.headers.host ?? "");
    if (names.has(name) || isLocal(name)) {
      next();
      return;
    }
    response
      .status(421)
      .type("text")
      .send("Rhizome does not answer under this name. Set ALLOWED_HOSTS to allow it.\n");
  };
}
