import { OUTPUT_FORMATS, type OutputFormat } from "../../../../codecs/outputFormats";
import { deliveredSize } from "../../../../pipeline/deliver/finishOutput";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { expectedOf } from "../../../work/expected";
import { TextField } from "../../../ui/TextField";
import { startDelivery } from "../../actions/deliver";
import { DeliverButton } from "../../DeliverButton";
import { Setting, type SettingOptions } from "../../Setting";
import { fieldNamed } from "../../../../pipeline/settings/reference";
import { unknownFields } from "../../../../pipeline/deliver/fileName";
import { namesOfFiles } from "../../../work/stackWork";
import { OtherFiles } from "./OtherFiles";
import { ResultFolder } from "./ResultFolder";
import { SizeSetting } from "./SizeSetting";

import { useKept } from "../../state/useKept";
import { useRecipe, useRecord, useSession, useWorkspace } from "../../state/workspace";
import { OutputFacts } from "./OutputFacts";

const DEPTHS = { "8": "8 bit", "16": "16 bit", "32f": "32-bit float" } as const;
/** The finest print, px an inch. */
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
  const { format, border, also } = useRecipe().deliver;
  const others = also.filter(({ on }) => on).length;
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
      <Setting name="deliver.scan" />
      <Setting name="deliver.limit" onlyKept />
      <Setting name="deliver.headroom" onlyKept />
      <FileSize />
      <Setting name="deliver.sharpenFor" />
      <Setting name="deliver.sharpening" onlyKept />
      <Setting name="deliver.distance" onlyKept />
      <Setting name="deliver.border" onlyKept />
      {border > 0 && <Setting name="deliver.borderTone" />}
      <Setting name="deliver.metadata" />
      <Setting name="deliver.creator" />
      <Setting name="deliver.copyright" />
      <Setting name="deliver.pattern" />
      <FileName />
      <FileFacts />
      <OtherFiles />
      <ResultFolder />
      <div className="mt-2">
        <DeliverButton
          stackId={stack.id}
          label={others ? `Render and save ${others + 1} files` : "Render and save"}
          onDeliver={() => startDelivery(workspace)}
        />
      </div>
    </>
  );
}

function FileSize() {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const { size, ppi } = recipe.deliver;
  const put = (part: Partial<Recipe["deliver"]>, label: string): void =>
    edit.keep({ ...recipe, deliver: { ...recipe.deliver, ...part } }, label);
  return (
    <>
      <SizeSetting
        value={size}
        help={fieldNamed("deliver.size")!.help}
        onKeep={(to) => put({ size: to }, "Size of the file")}
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

/** The name that the file gets by its pattern, and fields that nobody knows. */
function FileName() {
  const { members, record } = useWorkspace();
  const recipe = useRecipe();
  const { stack, take, shoot } = record();
  const naming = { take: take.name, shoot: shoot.name };
  const [name] = namesOfFiles(stack.name, members, recipe, naming);
  const unknown = unknownFields(recipe.deliver.pattern);
  return (
    <p className="truncate pl-2.5 text-[12px] text-quiet" title={name}>
      {unknown.length ? `Nobody knows {${unknown.join("}, {")}}` : name}
    </p>
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
