import { scaleColour } from "../../core/maps/maps";

/** One colour a frame, from the shortest exposure to the longest on one scale. */
export function frameColours(
  frames: readonly { ev: number; used: boolean }[],
): [number, number, number][] {
  const order = frames.map((_, i) => i).sort((a, b) => frames[a]!.ev - frames[b]!.ev);
  return frames.map((_, i) =>
    scaleColour(frames.length < 2 ? 0.5 : order.indexOf(i) / (frames.length - 1)),
  );
}
