export const SURROUNDS = ["dark", "grey", "light"] as const;
export type Surround = (typeof SURROUNDS)[number];
const KEY = "surround";

export function surround(): Surround {
  const s = localStorage.getItem(KEY);
  return SURROUNDS.find((x) => x === s) ?? "dark";
}

export function applySurround(next?: Surround): void {
  if (next) localStorage.setItem(KEY, next);
  document.documentElement.dataset["surround"] = next ?? surround();
}
