import { exposureEv } from "../../core/frame/frame";
import type { Frame, Result, Stack } from "../store/records";
import { clock, counted, plainNumber } from "../ui/format";
import type { SheetOrder } from "./messages";

const KINDS: Record<Stack["kind"], string> = {
  bracket: "Bracket",
  panorama: "Panorama",
  focus: "Focus stack",
  single: "Single",
};

/** What a stack's picture is shown with: its name, how it is marked, and what it is. */
export function sheetEntry(
  { name, kind, rating, label }: Stack,
  frames: readonly Frame[],
  result: Result | undefined,
  thumbnail: Blob | undefined,
): SheetOrder["entries"][number] {
  const marks = [
    ...(rating ? ["★".repeat(rating)] : []),
    ...(label === "none" ? [] : [label]),
  ].join(" ");
  const evs = frames.flatMap(({ info }) => exposureEv(info.exif) ?? []);
  const span = evs.length > 1 ? Math.max(...evs) - Math.min(...evs) : 0;
  const [first] = frames;
  const taken = first?.info.exif.takenAt;
  const facts = [
    KINDS[kind],
    counted(frames.length, "frame"),
    ...(kind === "bracket" && span > 0 ? [`over ${plainNumber(span).replace(/\.0$/, "")} EV`] : []),
    ...(taken === undefined ? [] : [clock(taken)]),
  ].join(", ");
  const picture = result?.picture ?? thumbnail;
  return { ...(picture ? { picture } : {}), lines: marks ? [name, facts, marks] : [name, facts] };
}
