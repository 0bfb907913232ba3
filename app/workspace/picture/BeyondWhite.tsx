import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { beyondWhiteOf, headroomOf } from "../../../pipeline/deliver/settings";
import { chosenProof } from "../../softProof/chosenProof";
import { Picture } from "../../ui/Picture";
import { useMediaQuery } from "../../ui/useMediaQuery";
import { GOES_BEYOND_WHITE } from "../../work/display";
import type { BrightView } from "../../work/sessionState";
import { useShownFrame } from "../state/shownFrame";
import { useShownMask, useShownRecipe } from "../state/shownFinish";
import { useSession, useView, useWorkspace } from "../state/workspace";
import { placementOf } from "./layers";

/** A change is followed once nothing was changed for so long, ms. */
const SETTLED_MS = 250;

/**
 * The picture as a display shows it that goes beyond white, over the one that stays within. The
 * browser hands its brightness on; a canvas cannot yet.
 */
export function BeyondWhite() {
  const { deliver } = useShownRecipe();
  const isAsked = useView((view) => view.beyondWhite);
  const isWanted = isAsked && beyondWhiteOf(deliver) !== "none";
  const isPossible = useMediaQuery(GOES_BEYOND_WHITE);
  const isOnPaper = useStore(chosenProof, ({ isOn }) => isOn);
  const isCovered = useView((view) => view.map !== undefined || view.clipped || view.wipe);
  const hasMask = useShownMask() !== undefined;
  const hasFrame = useShownFrame() !== undefined;
  if (!isWanted || !isPossible || isOnPaper || isCovered || hasMask || hasFrame) return null;
  return <BrightPicture />;
}

function BrightPicture() {
  const { viewport, box } = useView((view) => view);
  const size = useSession((s) => s.size);
  const shown = useBrightView();
  if (!shown) return null;
  const { zoom, ox, oy } = placementOf(viewport, size, box);
  const { x, y, width, height } = shown.region;
  return (
    <div
      className="pointer-events-none absolute"
      style={{
        left: x * zoom + ox,
        top: y * zoom + oy,
        width: width * zoom,
        height: height * zoom,
      }}
    >
      <Picture blob={shown.picture} alt="The picture, beyond white" className="size-full" />
    </div>
  );
}

/** The picture beyond white; none while it is changed. */
function useBrightView(): BrightView | undefined {
  const { session } = useWorkspace();
  const recipe = useShownRecipe();
  const headroom = headroomOf(recipe.deliver);
  const ready = useSession((s) => `${s.phase}${s.preview?.width} ${s.settled}`);
  const [made, setMade] = useState<{ of: unknown; view: BrightView | undefined }>();
  useEffect(() => {
    let live = true;
    const timer = setTimeout(() => {
      session.bright(recipe, headroom).then(
        (view) => live && setMade({ of: recipe, view }),
        // a view of a session that has been closed meanwhile
        () => undefined,
      );
    }, SETTLED_MS);
    return () => {
      live = false;
      clearTimeout(timer);
    };
  }, [session, recipe, headroom, ready]);
  return made?.of === recipe ? made.view : undefined;
}
