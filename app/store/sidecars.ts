import type { Words } from "../../codecs/exif";
import { writeSidecar } from "../../codecs/sidecar";
import { SIDECAR_ENDING } from "../../codecs/sidecarNames";
import type { Naming } from "./caption";
import type { Frame, Stack } from "./records";

/** A file that goes beside a frame's. */
export interface Sidecar {
  /** whose it is */
  frame: Frame;
  /** its name, in the frame's folder */
  name: string;
  /** its text, with what another program said there kept */
  text: (from?: string) => string;
}

/** What is said of a frame: by its stack, and by who is named. */
function wordsOf({ info: { exif } }: Frame, stack: Stack | undefined, naming: Naming): Words {
  const label = stack && stack.label !== "none" ? stack.label : exif.label;
  return {
    rating: stack?.rating || exif.rating || 0,
    label: label ?? "",
    caption: (stack?.note || exif.caption) ?? "",
    creator: (naming.creator || exif.creator) ?? "",
    copyright: (naming.copyright || exif.copyright) ?? "",
  };
}

/** The sidecars of frames of which something is said. */
export function sidecarsOf(
  frames: readonly Frame[],
  stacks: readonly Stack[],
  naming: Naming,
): Sidecar[] {
  const stackOf = new Map(stacks.flatMap((stack) => stack.frameIds.map((id) => [id, stack])));
  return frames.flatMap((frame): Sidecar[] => {
    const words = wordsOf(frame, stackOf.get(frame.id), naming);
    if (!Object.values(words).some(Boolean)) return [];
    const name = frame.info.name.replace(/\.[^.]*$/, "") + SIDECAR_ENDING;
    return [{ frame, name, text: (from) => writeSidecar(words, from) }];
  });
}
