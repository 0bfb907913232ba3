import { ratioOf } from "../../../pipeline/edges/step";
import { keepCrop, keepEdges } from "../actions/crop";
import { useKept } from "../state/useKept";
import { useRecipe, useSession, useView, useWorkspace } from "../state/workspace";
import { CropFrame } from "./CropFrame";

/** The frame round what is kept of the opened stack's picture. */
export function CropOverlay() {
  const workspace = useWorkspace();
  const kept = useKept();
  const picture = useSession((s) => s.size);
  const { viewport, box, overlay } = useView((view) => view);
  const { edges } = useRecipe();
  return (
    kept && (
      <CropFrame
        kept={kept.region}
        picture={picture}
        viewport={viewport}
        box={box}
        ratio={ratioOf(edges)}
        overlay={overlay}
        onKeep={(region) => keepCrop(workspace, region)}
        onReset={() => keepEdges(workspace, { part: "auto" }, "Largest part")}
      />
    )
  );
}
