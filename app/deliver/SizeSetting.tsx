import {
  fileSizeText,
  LONGEST_EDGE,
  parseFileSize,
  type FileSize,
} from "../../pipeline/deliver/size";
import { Menu } from "../ui/Menu";
import { TextField } from "../ui/TextField";

type By = FileSize["by"];

const KINDS: Readonly<Record<By, string>> = {
  full: "Full",
  long: "Long edge",
  short: "Short edge",
  width: "Width",
  height: "Height",
  fit: "Fit into",
  megapixels: "Megapixels",
  percent: "Percent",
};
/** Where each kind of size begins. */
const FIRST: Readonly<Record<By, FileSize>> = {
  full: { by: "full" },
  long: { by: "long", px: 2048 },
  short: { by: "short", px: 1200 },
  width: { by: "width", px: 1920 },
  height: { by: "height", px: 1080 },
  fit: { by: "fit", width: 1920, height: 1080 },
  megapixels: { by: "megapixels", megapixels: 12 },
  percent: { by: "percent", percent: 50 },
};

function amountText(size: FileSize): string {
  switch (size.by) {
    case "full":
      return "";
    case "fit":
      return `${size.width} × ${size.height} px`;
    case "megapixels":
      return `${size.megapixels} MP`;
    case "percent":
      return `${size.percent} %`;
    default:
      return `${size.px} px`;
  }
}

/** A size of the same kind with what was typed; undefined where it is none. */
export function withAmount(size: FileSize, typed: string): FileSize | undefined {
  const numbers = (typed.match(/\d+(?:[.,]\d+)?/g) ?? []).map((n) => Number(n.replace(",", ".")));
  const [first, second = first] = numbers;
  if (!first || size.by === "full") return undefined;
  let changed: FileSize;
  if (size.by === "fit") changed = { by: "fit", width: first, height: second! };
  else if (size.by === "megapixels") changed = { by: "megapixels", megapixels: first };
  else if (size.by === "percent") changed = { by: "percent", percent: first };
  else changed = { by: size.by, px: Math.min(LONGEST_EDGE, first) };
  return parseFileSize(fileSizeText(changed));
}

/** How large the file is: all of the picture, or what it is reduced to. */
export function SizeSetting({
  value,
  help,
  onKeep,
}: {
  value: string;
  help: string;
  onKeep: (size: string) => void;
}) {
  const size = parseFileSize(value) ?? FIRST.full;
  return (
    <>
      <Menu
        label="File size"
        hint={help}
        value={size.by}
        options={(Object.entries(KINDS) as [By, string][]).map(([by, text]) => ({
          value: by,
          text,
        }))}
        onChange={(by) => onKeep(fileSizeText(FIRST[by]))}
      />
      {size.by !== "full" && (
        <TextField
          label={KINDS[size.by]}
          hint="Nothing is enlarged."
          value={amountText(size)}
          onCommit={(typed) => {
            const changed = withAmount(size, typed);
            if (changed) onKeep(fileSizeText(changed));
          }}
        />
      )}
    </>
  );
}
