import { useState } from "react";
import type { HueRange } from "../../../../core/finish/adjustments";
import { nearHue } from "../../../../core/finish/hueTable";
import { fromOklab } from "../../../../core/finish/oklab";
import { SPACES, encode, fromWorking } from "../../../../core/colour/spaces";
import { apply } from "../../../../core/math/matrix3";
import { clamp } from "../../../../core/math/clamp";
import { Button } from "../../../ui/Button";
import { NumberSlider } from "../../../ui/NumberSlider";
import { signed } from "../../../ui/format";
import { ToolButton } from "../../ToolButton";
import { useAdjustments } from "./Adjustment";

const STEPS = 72;
const NEW: HueRange = { hue: 30, reach: 30, turn: 0, saturation: 0, lightness: 0 };
/** A press on the strip takes hold of a range within so many degrees. */
const NEAR = 14;
const MOST = 12;
const TO_SRGB = fromWorking("srgb");

/** A hue as it is shown on the strip, of middling lightness and chroma. */
function css(hue: number): string {
  const angle = (hue * Math.PI) / 180;
  const rgb = apply(TO_SRGB, fromOklab([0.7, 0.1 * Math.cos(angle), 0.1 * Math.sin(angle)]));
  const bytes = rgb.map((v) => Math.round(255 * encode(SPACES.srgb.curve, clamp(v, 0, 1))));
  return `rgb(${bytes.join(" ")})`;
}
const STRIP = `linear-gradient(90deg, ${Array.from({ length: STEPS + 1 }, (_, i) => css((i / STEPS) * 360)).join(", ")})`;

const percent = {
  unit: "%",
  step: 0.01,
  reset: 0,
  shown: (v: number) => signed(v * 100, 0) || "0",
  parse: (n: number) => n / 100,
};

/** Ranges of hue on the strip of all hues, each turned, strengthened or lightened. */
export function HueRanges() {
  const { set, show, keep } = useAdjustments();
  const { hues } = set;
  const [chosen, setChosen] = useState(0);
  const [dragged, setDragged] = useState(false);
  const at = Math.min(chosen, hues.length - 1);
  const range = hues[at];
  const withRange = (more: Partial<HueRange>): HueRange[] =>
    hues.map((other, i) => (i === at ? { ...other, ...more } : other));
  const hueAt = (e: React.PointerEvent): number => {
    const r = e.currentTarget.getBoundingClientRect();
    return Math.round(clamp((e.clientX - r.left) / r.width, 0, 1) * 360);
  };
  const begin = (hue: number): void => {
    const near = hues.findIndex((other) => Math.abs(other.hue - hue) < NEAR);
    if (near >= 0) {
      setChosen(near);
      setDragged(true);
      return;
    }
    if (hues.length >= MOST) return;
    keep({ hues: [...hues, { ...NEW, hue }] }, "New range of hues");
    setChosen(hues.length);
  };
  return (
    <div className="my-1">
      <div className="flex items-center justify-between">
        <span className="pl-2.5 text-quiet">Hues</span>
        <span className="flex gap-1">
          <Button
            variant="plain"
            className="h-6 px-2"
            disabled={hues.length >= MOST}
            onClick={() => begin((hues.at(-1)?.hue ?? 0) + (hues.length ? 40 : 30))}
          >
            Add a range
          </Button>
          <ToolButton
            tool="hue"
            text="On the picture"
            hint="Drag a colour of the picture: up and down for lightness, across for saturation"
          />
        </span>
      </div>
      <div
        role="group"
        aria-label="Strip of hues"
        className="relative mt-1 h-7 cursor-pointer touch-none rounded-sm"
        style={{ background: STRIP }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          begin(hueAt(e));
        }}
        onPointerMove={(e) => {
          if (dragged) show({ hues: withRange({ hue: hueAt(e) }) });
        }}
        onPointerUp={(e) => {
          if (dragged) keep({ hues: withRange({ hue: hueAt(e) }) }, "Hue of a range");
          setDragged(false);
        }}
      >
        {hues.map((other, i) => (
          <span
            key={i}
            aria-hidden
            className={`absolute top-0 h-full w-1 -translate-x-1/2 border-x ${i === at ? "border-black bg-white" : "border-black/60 bg-white/60"}`}
            style={{ left: `${(other.hue / 360) * 100}%` }}
          />
        ))}
      </div>
      {range && (
        <>
          <ReachBar range={range} />
          <NumberSlider
            label="Hue"
            name="Hue of the range"
            hint="Its middle."
            unit={"\u00b0"}
            min={0}
            max={360}
            step={1}
            reset={NEW.hue}
            value={range.hue}
            onChange={(hue) => show({ hues: withRange({ hue }) })}
            onCommit={(hue) => keep({ hues: withRange({ hue }) }, "Hue of a range")}
          />
          <NumberSlider
            label="Reach"
            name="Reach of the range"
            hint="How far to either side it goes."
            unit={"\u00b0"}
            min={5}
            max={90}
            step={1}
            reset={NEW.reach}
            value={range.reach}
            onChange={(reach) => show({ hues: withRange({ reach }) })}
            onCommit={(reach) => keep({ hues: withRange({ reach }) }, "Reach of a range")}
          />
          <NumberSlider
            label="Turn"
            name="Turn of the range"
            hint="Moves its hues along the circle."
            unit={"\u00b0"}
            min={-60}
            max={60}
            step={1}
            reset={0}
            shown={(v) => signed(v, 0) || "0"}
            value={range.turn}
            onChange={(turn) => show({ hues: withRange({ turn }) })}
            onCommit={(turn) => keep({ hues: withRange({ turn }) }, "Turn of a range")}
          />
          <NumberSlider
            label="Saturation"
            name="Saturation of the range"
            hint="Stronger or weaker."
            {...percent}
            min={-1}
            max={1}
            value={range.saturation}
            onChange={(saturation) => show({ hues: withRange({ saturation }) })}
            onCommit={(saturation) =>
              keep({ hues: withRange({ saturation }) }, "Saturation of a range")
            }
          />
          <NumberSlider
            label="Lightness"
            name="Lightness of the range"
            hint="Lighter or darker."
            {...percent}
            min={-1}
            max={1}
            value={range.lightness}
            onChange={(lightness) => show({ hues: withRange({ lightness }) })}
            onCommit={(lightness) =>
              keep({ hues: withRange({ lightness }) }, "Lightness of a range")
            }
          />
          <Button
            variant="plain"
            className="h-6 px-2"
            onClick={() =>
              keep({ hues: hues.filter((_, i) => i !== at) }, "Delete a range of hues")
            }
          >
            Delete this range
          </Button>
        </>
      )}
    </div>
  );
}

/** How far a range takes in the hues of the strip above. */
function ReachBar({ range }: { range: HueRange }) {
  const path = Array.from({ length: STEPS + 1 }, (_, i) => {
    const near = nearHue((i / STEPS) * 360, range);
    return `${i ? "L" : "M"}${(i / STEPS) * 240},${12 - near * 11}`;
  }).join("");
  return (
    <svg aria-hidden viewBox="0 0 240 12" className="h-3 w-full" preserveAspectRatio="none">
      <path d={path} fill="none" stroke="var(--quiet)" />
    </svg>
  );
}
