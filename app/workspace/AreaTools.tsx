import { BrushSize } from "./BrushSize";
import { useView } from "./state/workspace";
import { ToolButton } from "./ToolButton";

/** The tools by which an area is drawn that is given to a frame, or hidden in some. */
export function AreaTools() {
  const isPainting = useView((view) => view.tool === "brush");
  return (
    <>
      <div className="mt-1 flex gap-1">
        <ToolButton
          tool="outline"
          text="Draw round"
          hint="Outline an area, then choose its frame (G)"
        />
        <ToolButton
          tool="brush"
          text="Paint"
          hint="Paint over an area, then choose its frame (Shift G)"
        />
      </div>
      {isPainting && <BrushSize />}
    </>
  );
}
