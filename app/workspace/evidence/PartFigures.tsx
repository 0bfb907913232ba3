import { useEffect, useState } from "react";
import type { PartFigures as Figures } from "../../work/sessionState";
import { Fact } from "../../ui/Fact";
import { plainNumber, signed } from "../../ui/format";
import { partOf } from "../actions/parts";
import { useRecipe, useSession, useView, useWorkspace } from "../state/workspace";

/** A sky of which the finder is less sure than this is taken for none. */
const SURE = 0.3;

/** The part that is shown in numbers; nothing for the whole picture. */
export function PartFigures() {
  const { session } = useWorkspace();
  const recipe = useRecipe();
  const id = useView((view) => (view.open === "finish" ? view.part : undefined));
  const isReady = useSession((s) => s.phase === "ready");
  const part = partOf(recipe, id);
  const shape = part && JSON.stringify([part.shapes, part.inverted, part.feather]);
  const [figures, setFigures] = useState<Figures>();
  useEffect(() => {
    if (!part || !isReady) return;
    let live = true;
    session.measurePart(recipe, part).then(
      (found) => {
        if (live) setFigures(found);
      },
      // the session was closed meanwhile
      () => undefined,
    );
    return () => {
      live = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- by what the part is made of
  }, [session, shape, isReady]);
  if (!part) return null;
  return (
    <section aria-label="This part" className="mt-4">
      <h2 className="mb-1 font-semibold">This part</h2>
      <dl className="grid grid-cols-[1fr_auto_28px] gap-x-2 gap-y-0.5">
        <Fact
          what="Of the picture"
          value={figures && plainNumber(figures.share * 100, 1)}
          unit="%"
        />
        <Fact what="Mean" value={figures && signed(figures.meanEv)} unit="EV" />
        {figures?.skySure !== undefined && (
          <Fact what="Sky, sure" value={plainNumber(figures.skySure * 100, 0)} unit="%" />
        )}
      </dl>
      {figures?.skySure !== undefined && figures.skySure < SURE && (
        <p role="note" className="mt-1 text-[12px] text-quiet">
          No sky was found. Take samples of it, or draw it.
        </p>
      )}
    </section>
  );
}
