import { OUTPUT_FORMATS } from "../../codecs/outputFormats";
import { NO_PAPER } from "../../pipeline/deliver/paper";
import { beyondWhiteOf, type FileSettings } from "../../pipeline/deliver/settings";

/** What a delivery makes, in a few words. */
export function deliverySaid(settings: FileSettings): string {
  const { format, depth, size, paper, sharpenFor, headroom } = settings;
  const { name, depths } = OUTPUT_FORMATS[format];
  const bits = depths.length > 1 ? ` ${depth === "32f" ? "float" : `${depth} bit`}` : "";
  const bound = size === "full" ? [] : [size];
  return [
    `${name}${bits}`,
    ...(paper === NO_PAPER ? bound : [paper.replace("x", " × ")]),
    ...(sharpenFor === "off" ? [] : [`for ${sharpenFor}`]),
    ...(beyondWhiteOf(settings) !== "none" ? [`${headroom} EV beyond white`] : []),
  ].join(", ");
}
