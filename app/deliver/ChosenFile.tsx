import { Picture } from "../ui/Picture";
import { OutputFacts } from "./OutputFacts";
import type { Cell, PlannedStack } from "./plan";

/** The file at the cursor: on its paper, to scale, and what it will be. */
export function ChosenFile({ planned, cell }: { planned: PlannedStack; cell: Cell | undefined }) {
  if (!cell) return <p className="text-quiet">This stack has no such file.</p>;
  const { layout, delivery } = cell;
  return (
    <>
      <h2 className="mb-2 font-semibold">{layout.paper ? "On paper" : "The file"}</h2>
      <Sheet planned={planned} cell={cell} />
      <OutputFacts layout={layout} settings={delivery.settings} expected={() => planned.expected} />
      {!planned.isMerged && (
        <p className="mt-2 text-[12px] text-quiet">
          It is not merged yet: sizes are those of its largest frame.
        </p>
      )}
    </>
  );
}

/** Sheet and picture to scale. */
function Sheet({ planned, cell: { layout, delivery } }: { planned: PlannedStack; cell: Cell }) {
  const { file, picture } = layout;
  const share = (part: number, whole: number): string => `${(100 * part) / whole}%`;
  const tone = { white: "#fff", grey: "#bcbcbc", black: "#000" }[delivery.settings.borderTone];
  return (
    <div
      role="img"
      aria-label="The picture on its sheet, to scale"
      className="grid place-items-center"
      style={{ background: tone, aspectRatio: `${file.width} / ${file.height}` }}
    >
      <Picture
        blob={planned.picture}
        alt=""
        className="object-cover"
        style={{
          width: share(picture.width, file.width),
          height: share(picture.height, file.height),
        }}
      />
    </div>
  );
}
