import { panoramaSettings, type PanoramaSettings } from "./settings";
import { planeBytesOf } from "../../core/raster/accumulator";
import { defineStep } from "../step";
import type { Work } from "../work";
import type { Watch } from "../../runtime/work";
import type { Scene } from "../merge/scene";
import type { Layout } from "./layout";
import { renderPanorama, type PanoramaInput } from "./renderPanorama";

/**
 * What joining frames in so large a part of the canvas takes, bytes: its pyramids, a piece of a
 * frame, and frames being read.
 */
export const joiningBytes = ({ width, height }: { width: number; height: number }): number =>
  planeBytesOf(width, height) * 5.4 + Math.min(450e6, width * height * 40);

/** Finds how the frames lie round the camera and joins them on one canvas. */
export const panoramaStep = defineStep({
  settings: panoramaSettings,
  key: ({ panorama }: { panorama: PanoramaSettings }) => panorama,
  run: (
    work: Work,
    input: PanoramaInput & { fill: boolean },
    _settings: PanoramaSettings,
    watch: Watch,
  ): Promise<Scene> => renderPanorama(work, input, watch),
  facts: ({ cameras, rmsPx, canvas, levelled }: Layout) => {
    const placed = cameras.filter((c) => c !== undefined);
    return [
      { what: "Frames placed", value: placed.length, unit: "" as const, digits: 0 as const },
      {
        what: "Tie points, worst frame",
        value: Math.max(0, ...rmsPx),
        unit: "px" as const,
        digits: 2 as const,
      },
      {
        what: "Focal length",
        value: placed[0]?.focalPx ?? 0,
        unit: "px" as const,
        digits: 0 as const,
      },
      ...(levelled
        ? [
            {
              what: "Level, known to",
              value: levelled.degrees,
              unit: "\u00b0" as const,
              digits: 2 as const,
            },
          ]
        : []),
      {
        what: "Size",
        value: (canvas.width * canvas.height) / 1e6,
        unit: "MP" as const,
        digits: 1 as const,
      },
    ];
  },
});
