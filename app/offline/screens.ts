import { matchPath } from "react-router";

interface RouteEntry {
  path?: string;
  module: string;
}
/** What the router wrote into the page. */
interface Manifest {
  routes: Record<string, RouteEntry>;
}

const manifest = (): Manifest | undefined =>
  (globalThis as { __reactRouterManifest?: Manifest }).__reactRouterManifest;

const fetched = new Set<string>();

async function fetchModule(module: string): Promise<void> {
  await import(/* @vite-ignore */ module);
  fetched.add(module);
}

/** The module of the screen at an address, if the page knows it and has not fetched it yet. */
export function moduleToFetch(address: string): string | undefined {
  const entries = Object.values(manifest()?.routes ?? {});
  const entry = entries.find(({ path }) => path && matchPath(`/${path}`, address));
  return entry && !fetched.has(entry.module) ? entry.module : undefined;
}

/** Fetches the module of a screen. @returns false where it cannot be had */
export const fetchScreen = (module: string): Promise<boolean> =>
  fetchModule(module).then(
    () => true,
    () => false,
  );

/** Fetches all screens, so that each opens also when the server is gone. */
export async function fetchAllScreens(): Promise<void> {
  const modules = Object.values(manifest()?.routes ?? {}).map(({ module }) => module);
  await Promise.allSettled(modules.map(fetchModule));
}
