import { OUTPUT_FORMATS, type OutputFormat } from "../../../../codecs/outputFormats";
import { deliveredSize } from "../../../../pipeline/deliver/step";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { expectedOf } from "../../../work/expected";
import { TextField } from "../../../ui/TextField";
import { startDelivery } from "../../actions/deliver";
import { DeliverButton } from "../../DeliverButton";
import { Setting, type SettingOptions } from "../../Setting";

import { useKept } from "../../state/useKept";
import { useRecipe, useRecord, useSession, useWorkspace } from "../../state/workspace";
import { OutputFacts } from "./OutputFacts";

const DEPTHS = { "8": "8 bit", "16": "16 bit", "32f": "32-bit float" } as const;
/** The longest edge of a file, px, and the finest print, px an inch. */
const LONGEST_EDGE = 65535;
const MOST_PPI = 4800;

/** The depths that a format can hold; half floats are said to be so. */
const depthsOf = (format: OutputFormat): NonNullable<SettingOptions["options"]> =>
  OUTPUT_FORMATS[format].depths.map((value) => ({
    value,
    text: format === "exr" && value === "16" ? "16-bit half" : DEPTHS[value],
  }));

/** Another format comes with the first of its own depths. */
const withOwnDepth = (recipe: Recipe): Recipe => ({
  ...recipe,
  deliver: { ...recipe.deliver, depth: OUTPUT_FORMATS[recipe.deliver.format].depths[0] },
});

/** What file the picture goes out in. */
export function DeliverControls() {
  const workspace = useWorkspace();
  const { stack } = useRecord();
  const { format } = useRecipe().deliver;
  return (
    <>
      <Setting name="deliver.format" also={withOwnDepth} />
      {OUTPUT_FORMATS[format].depths.length > 1 && (
        <Setting name="deliver.depth" options={depthsOf(format)} />
      )}
      <Setting name="deliver.compression" />
      <Setting name="deliver.space" />
      <Setting name="deliver.quality" />
      <Setting name="deliver.chroma" />
      <FileSize />
      <Setting name="deliver.creator" />
      <Setting name="deliver.copyright" />
      <FileFacts />
      <div className="mt-2">
        <DeliverButton
          stackId={stack.id}
          label="Render and save"
          onDeliver={() => startDelivery(workspace)}
        />
      </div>
    </>
  );
}

function FileSize() {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const { longEdge, ppi } = recipe.deliver;
  const put = (part: Partial<Recipe["deliver"]>, label: string): void =>
    edit.keep({ ...recipe, deliver: { ...recipe.deliver, ...part } }, label);
  return (
    <>
      <TextField
        label="Long edge"
        hint="Longer edge of the file in px; empty or 'full' leaves the picture as large as it is."
        value={longEdge ? `${longEdge} px` : "full"}
        onCommit={(text) => {
          const px = Number.parseInt(text, 10);
          put({ longEdge: px > 0 ? Math.min(LONGEST_EDGE, px) : 0 }, "Long edge");
        }}
      />
      <TextField
        label="Resolution"
        hint="Pixels per inch for printing; written into the file."
        value={`${ppi} ppi`}
        onCommit={(text) => {
          const to = Number.parseInt(text, 10);
          if (to > 0) put({ ppi: Math.min(MOST_PPI, to) }, "Resolution");
        }}
      />
    </>
  );
}

/** What the file will be, and what making it takes. */
function FileFacts() {
  const { members } = useWorkspace();
  const recipe = useRecipe();
  const size = useSession((s) => s.size);
  const canvas = useSession((s) => s.layout?.canvas);
  const isReady = useSession((s) => s.phase === "ready");
  const out = deliveredSize(useKept()?.region ?? size, recipe.deliver);
  return (
    <OutputFacts
      out={out}
      ppi={recipe.deliver.ppi}
      expected={isReady ? () => expectedOf(members, recipe, out, canvas) : undefined}
    />
  );
}
