import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { ratioOf, swappedRatio } from "../../../../pipeline/edges/step";
import { Button } from "../../../ui/Button";
import { Choice } from "../../../ui/Choice";
import { TextField } from "../../../ui/TextField";
import { plainNumber } from "../../../ui/format";
import { OVERLAYS, resized, sharesOf, type Overlay } from "../../picture/cropShape";
import { keepEdges } from "../../actions/crop";
import { Setting } from "../../Setting";
import { Straighten } from "./Straighten";
import { useKept } from "../../state/useKept";
import { useRecipe, useRecord, useSession, useView, useWorkspace } from "../../state/workspace";
import type { Size } from "../../picture/viewport";

type Edges = Recipe["edges"];

const RATIOS = ["1:1", "5:4", "4:3", "3:2", "16:9", "2:1", "3:1"] as const;
/** Width to height in the smallest whole numbers. */
function ratioAs({ width, height }: Size): string {
  const common = (a: number, b: number): number => (b ? common(b, a % b) : a);
  const by = common(width, height);
  return width / by < 100 && height / by < 100
    ? `${width / by}:${height / by}`
    : `${plainNumber(width / height, 3)}:1`;
}
/** A ratio as it may be typed: 3:2, 4x5, 2.35; undefined where it is none. */
export function typedRatio(text: string): string | undefined {
  const m = /^(\d+(?:[.,]\d+)?)(?:\s*[:x×/]\s*(\d+(?:[.,]\d+)?))?$/i.exec(text.trim());
  const [w, h] = m ? [m[1]!, m[2] ?? "1"].map((t) => Number(t.replace(",", "."))) : [];
  return w && h && w / h > 0.02 && w / h < 50 && w < 10000 && h < 10000 && w >= 1 && h >= 1
    ? `${Number(w.toFixed(3))}:${Number(h.toFixed(3))}`
    : undefined;
}

/** What is done about empty borders, and which part of the picture is kept. */
export function EdgesControls() {
  const workspace = useWorkspace();
  const { edges, kind } = useRecipe();
  const { frames } = useRecord();
  const kept = useKept()?.region;
  const picture = useSession((s) => s.size);
  const overlay = useView((view) => view.overlay);
  const put = (part: Partial<Edges>, label: string): void => keepEdges(workspace, part, label);
  const own = ratioAs(frames[0]!.info);
  const ratio = ratioOf(edges);
  const ratioText = (ratio: string): string => {
    if (ratio === "free") return "Free";
    return ratio === own ? `As taken, ${own}` : ratio;
  };
  // a ratio is chosen as it is known; frames on end turn it
  const chips = [
    ...new Set([
      "free",
      own,
      ...RATIOS.map((a) => (ratio !== undefined && ratio < 1 ? swappedRatio(a) : a)),
      edges.ratio,
    ]),
  ];
  const size = (text: string): void => {
    const [w, h] = (text.match(/\d+/g) ?? []).map(Number);
    const width = w ?? 0;
    const height = ratio === undefined ? (h ?? 0) : width / ratio;
    if (kept && width >= 16 && height >= 16)
      put(
        { part: sharesOf(resized(kept, width, height, picture), picture) },
        "Size of what is kept",
      );
  };
  return (
    <>
      {kind !== "panorama" && <Straighten />}
      <Setting name="edges.mode" />
      <Setting name="edges.amount" />
      <Setting name="edges.rest" />
      <Choice
        label="Ratio"
        hint="Width to height of what is kept."
        value={edges.ratio}
        options={chips.map((value) => ({
          value,
          text: ratioText(value),
        }))}
        onChange={(to) => put({ ratio: to }, "Ratio")}
      />
      <TextField
        label="Own ratio"
        hint="Type a ratio: 7:5, 2.35:1 or 1.85."
        value={edges.ratio === "free" ? "" : edges.ratio}
        onCommit={(t) => {
          const to = t === "" ? "free" : typedRatio(t);
          if (to) put({ ratio: to }, "Ratio");
        }}
      />
      {kept && (
        <TextField
          label="Size"
          hint="Size of the crop, in px; with a ratio the width is enough."
          value={`${kept.width} × ${kept.height} px`}
          onCommit={size}
        />
      )}
      <Choice
        label="Lines"
        hint="Lines to compose by; they are not in the picture."
        value={overlay}
        options={(Object.entries(OVERLAYS) as [Overlay, string][]).map(([value, text]) => ({
          value,
          text,
        }))}
        onChange={(to) => workspace.view.setState({ overlay: to })}
      />
      <div className="mt-2 flex gap-1">
        <Button
          disabled={ratio === undefined || ratio === 1}
          hint="Changes width and height of the ratio (Shift X)"
          onClick={() => put({ ratio: swappedRatio(edges.ratio) }, "Turn the ratio")}
        >
          Turn
        </Button>
        <Button
          disabled={edges.part === "auto"}
          hint="Resets the crop (double-click in the frame)"
          onClick={() => put({ part: "auto" }, "Largest part")}
        >
          Largest
        </Button>
      </div>
    </>
  );
}
