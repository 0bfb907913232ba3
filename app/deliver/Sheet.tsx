import { Picture } from "../ui/Picture";
import type { Cell, PlannedStack } from "./plan";

const TONES = { white: "#fff", grey: "#bcbcbc", black: "#000" } as const;

/** Sheet and picture to scale, as wide as there is room. */
export function Sheet({ planned, cell }: { planned: PlannedStack; cell: Cell }) {
  const { file, picture } = cell.layout;
  const share = (part: number, whole: number): string => `${(100 * part) / whole}%`;
  return (
    <div
      role="img"
      aria-label="The picture on its sheet, to scale"
      className="grid w-full place-items-center"
      style={{
        background: TONES[cell.delivery.settings.borderTone],
        aspectRatio: `${file.width} / ${file.height}`,
      }}
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
