import { OUTPUT_FORMATS, type OutputFormat } from "../../codecs/outputFormats";
import { beyondWhiteOf, fileSettings, type FileSettings } from "../../pipeline/deliver/settings";
import { defaultRecipe } from "../../pipeline/recipe/recipe";
import type { RecipeKind } from "../../pipeline/recipe/kinds";
import { applies } from "../../pipeline/settings/applies";
import { FieldControl } from "../settings/FieldControl";
import { TextField } from "../ui/TextField";
import { PaperSetting } from "./PaperSetting";
import { SizeSetting } from "./SizeSetting";

const DEPTHS = { "8": "8 bit", "16": "16 bit", "32f": "32-bit float" } as const;
/** The finest print, px an inch. */
const MOST_PPI = 4800;

/** The depths that a format can hold; half floats are said to be so. */
const depthsOf = (format: OutputFormat) =>
  OUTPUT_FORMATS[format].depths.map((value) => ({
    value,
    text: format === "exr" && value === "16" ? "16-bit half" : DEPTHS[value],
  }));

interface Props {
  settings: FileSettings;
  /** of the stack, or of the first of several */
  kind: RecipeKind;
  /** @param label  of the change in the history */
  onKeep: (part: Partial<FileSettings>, label: string) => void;
}

/** Every setting of one file, in the order in which they are decided. */
export function FileControls({ settings, kind, onKeep }: Props) {
  const { format, border, paper, size, ppi } = settings;
  const control = (name: keyof FileSettings) => <FileField {...{ name, settings, kind, onKeep }} />;
  return (
    <>
      <FileField name="format" {...{ settings, kind }} onKeep={withOwnDepth(onKeep)} />
      {OUTPUT_FORMATS[format].depths.length > 1 && control("depth")}
      {control("compression")}
      {control("tiling")}
      {control("space")}
      {control("quality")}
      {control("chroma")}
      {control("scan")}
      {control("limit")}
      {control("headroom")}
      {beyondWhiteOf(settings) === "code" && control("displayCode")}
      <PaperSetting value={paper} onKeep={(to) => onKeep({ paper: to }, "Paper")} />
      {control("onPaper")}
      {control("margin")}
      {applies(fileSettings.fields.size.when, recipeWith(settings, kind)) && (
        <SizeSetting
          value={size}
          help={fileSettings.fields.size.help}
          onKeep={(to) => onKeep({ size: to }, "Size of the file")}
        />
      )}
      <TextField
        label="Resolution"
        hint={fileSettings.fields.ppi.help}
        value={`${ppi} ppi`}
        onCommit={(text) => {
          const to = Number.parseInt(text, 10);
          if (to > 0) onKeep({ ppi: Math.min(MOST_PPI, to) }, "Resolution");
        }}
      />
      {control("leastPpi")}
      {control("sharpenFor")}
      {control("sharpening")}
      {control("distance")}
      {control("border")}
      {(border > 0 || paper !== fileSettings.defaults.paper) && control("borderTone")}
      {control("metadata")}
      {control("creator")}
      {control("copyright")}
      {control("pattern")}
    </>
  );
}

/** Another format comes with the first of its own depths. */
const withOwnDepth =
  (onKeep: Props["onKeep"]): Props["onKeep"] =>
  (part, label) => {
    const { format } = part;
    onKeep(format ? { ...part, depth: OUTPUT_FORMATS[format].depths[0] } : part, label);
  };

/** A recipe of which only the file's settings are asked. */
const recipeWith = (settings: FileSettings, kind: RecipeKind) => ({
  ...defaultRecipe(kind),
  deliver: { ...settings, also: [] },
});

/** The control of one setting; nothing where it has no effect. */
function FileField({ name, settings, kind, onKeep }: Props & { name: keyof FileSettings }) {
  const field = fileSettings.fields[name];
  if (!applies(field.when, recipeWith(settings, kind))) return null;
  return (
    <FieldControl
      field={field}
      kind={kind}
      value={settings[name]}
      {...(name === "depth" ? { options: depthsOf(settings.format) } : {})}
      onKeep={(value) => onKeep({ [name]: value }, field.change ?? field.label)}
    />
  );
}
