import type { PageId } from "./pages";

/** An anchor's name from a heading. */
export const anchorOf = (heading: string): string =>
  heading
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, "-")
    .replace(/^-|-$/g, "");

/** Where a page of the guide is, or a part of it by its heading. */
export const helpAddress = (page: PageId, heading?: string): string =>
  `/help/${page}${heading === undefined ? "" : `#${anchorOf(heading)}`}`;
