import { exposureEv, roundEv } from "../../core/frame/frame";
import type { Frame } from "../store/records";
import { median } from "../../core/math/median";

/** EV of a stack's frames against the middle one. */
export function relativeEvs(frames: readonly Frame[]): (number | undefined)[] {
  const evs = frames.map((f) => exposureEv(f.info.exif));
  const known = evs.filter((e): e is number => e !== undefined);
  const mid = median(known);
  return evs.map((e) => (e === undefined ? undefined : roundEv(e - mid)));
}
