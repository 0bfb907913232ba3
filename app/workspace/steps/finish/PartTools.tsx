import type { KeptPart } from "../../../../pipeline/finish/partSchema";
import { Button } from "../../../ui/Button";
import { Checkbox } from "../../../ui/Checkbox";
import { Choice } from "../../../ui/Choice";
import { NumberSlider } from "../../../ui/NumberSlider";
import { addShape } from "../../actions/parts";
import { BrushSize } from "../../BrushSize";
import { useView, useWorkspace } from "../../state/workspace";
import type { ToolName } from "../../tools/tool";
import { ToolButton } from "../../ToolButton";

const TOOLS: readonly { tool: ToolName; text: string; hint: string }[] = [
  { tool: "part outline", text: "Outline", hint: "Draw round an area" },
  { tool: "part brush", text: "Brush", hint: "Paint over an area" },
  { tool: "part gradient", text: "Gradient", hint: "Drag from where it is whole to where it ends" },
  { tool: "part ellipse", text: "Ellipse", hint: "Drag from its centre" },
  { tool: "part tones", text: "Tones", hint: "Click: what is as light as that place" },
  { tool: "part colours", text: "Colours", hint: "Click: what has the hue of that place" },
  {
    tool: "part sample",
    text: "Sample",
    hint: "Click: what is like that place in colour, light and texture, around it",
  },
];
const JOININGS = [
  { value: "new", text: "New part" },
  { value: "add", text: "Add" },
  { value: "subtract", text: "Subtract" },
  { value: "intersect", text: "Overlap" },
] as const;

const percent = {
  unit: "%",
  shown: (v: number) => String(Math.round(v * 100)),
  parse: (n: number) => n / 100,
};

/** What draws the shapes of parts, and what the next shape does. */
export function PartTools({ part }: { part: KeptPart | undefined }) {
  const workspace = useWorkspace();
  const { view } = workspace;
  const joining = useView((v) => v.joining);
  const isPainting = useView((v) => v.tool === "part brush");
  return (
    <>
      <div role="group" aria-label="Shapes of parts" className="grid grid-cols-4 gap-1">
        {TOOLS.map(({ tool, text, hint }) => (
          <ToolButton key={tool} tool={tool} text={text} hint={hint} isCell />
        ))}
        <Button
          className="justify-center px-1"
          hint="Finds the sky by itself"
          onClick={() => addShape(workspace, { type: "sky" })}
        >
          Sky
        </Button>
      </div>
      {part && (
        <Choice
          label="Next shape"
          hint="Begins a part, or adds to this one, takes from it, or keeps what both have."
          value={joining}
          options={JOININGS}
          onChange={(to) => view.setState({ joining: to })}
        />
      )}
      {isPainting && <BrushSettings />}
    </>
  );
}

function BrushSettings() {
  const { view } = useWorkspace();
  const stroke = useView((v) => v.stroke);
  const change = (more: Partial<typeof stroke>): void =>
    view.setState({ stroke: { ...stroke, ...more } });
  return (
    <>
      <BrushSize label="Size" />
      <NumberSlider
        label="Softness"
        hint="How much of the brush fades."
        {...percent}
        min={0}
        max={1}
        step={0.05}
        reset={0.5}
        value={stroke.softness}
        onChange={(softness) => change({ softness })}
        onCommit={(softness) => change({ softness })}
      />
      <NumberSlider
        label="Flow"
        hint="How far one stroke covers."
        {...percent}
        min={0.05}
        max={1}
        step={0.05}
        reset={1}
        value={stroke.flow}
        onChange={(flow) => change({ flow })}
        onCommit={(flow) => change({ flow })}
      />
      <label className="flex h-7 items-center gap-2 pl-2.5 text-quiet">
        <Checkbox checked={stroke.edgeAware} onChange={(edgeAware) => change({ edgeAware })} />
        Stays on its side of an edge
      </label>
    </>
  );
}
