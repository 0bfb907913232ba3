import type { FrameInfo } from "../../core/frame/frame";

type Frames = readonly { info: FrameInfo }[];

/** What people said of a stack, written into its results. */
export interface Marks {
  rating: number;
  label: string;
  description: string;
}

const first = (frames: Frames, what: "label" | "caption" | "creator" | "copyright"): string =>
  frames.find(({ info }) => info.exif[what])?.info.exif[what] ?? "";

/** What is said of a stack by what its frames, or files beside them, say: the most stars count. */
export const marksOfFrames = (frames: Frames): Marks => ({
  rating: Math.max(0, ...frames.map(({ info }) => info.exif.rating ?? 0)),
  label: first(frames, "label"),
  description: first(frames, "caption"),
});

/** Who is named on a stack's files: who was set, else who its frames name. */
export const namingOf = (
  frames: Frames,
  { creator, copyright }: { creator: string; copyright: string },
): { creator: string; copyright: string } => ({
  creator: creator || first(frames, "creator"),
  copyright: copyright || first(frames, "copyright"),
});
