import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { matchPath } from "react-router";

/** Addresses that the page has a screen for, as the router wrote them beside the page. */
export function screenPaths(client: string): string[] {
  const assets = join(client, "assets");
  const manifest = readdirSync(assets).find((file) => /^manifest-[\w-]+\.js$/.test(file));
  if (!manifest) throw new Error(`${assets} has no manifest: run \`npm run build\``);
  const text = readFileSync(join(assets, manifest), "utf8");
  const { routes } = JSON.parse(text.replace(/^[^{]*/, "").replace(/;\s*$/, "")) as {
    routes: Record<string, { path?: string; index?: boolean }>;
  };
  return Object.values(routes).flatMap(({ path, index }) => {
    if (index) return ["/"];
    return path && path !== "*" ? [`/${path}`] : [];
  });
}

/** Whether the page has a screen at this address. */
export const isScreen = (paths: readonly string[], address: string): boolean =>
  paths.some((path) => matchPath(path, address) !== null);
