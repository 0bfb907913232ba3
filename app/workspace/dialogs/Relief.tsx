import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import { Dialog } from "radix-ui";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { StackSession } from "../../work/session";
import { Button } from "../../ui/Button";
import { NumberSlider } from "../../ui/NumberSlider";
import { showRelief, showSphere, type Space } from "./space";

interface Props {
  session: StackSession;
  recipe: Recipe;
  kind: "relief" | "sphere";
  onClose: () => void;
}

/** All of a panorama, as large as a texture may be anywhere. */
const allRound = (session: StackSession, recipe: Recipe): ReturnType<StackSession["view"]> => {
  const { size } = session.state;
  return session.view({
    region: { x: 0, y: 0, ...size },
    zoom: Math.min(1, 4000 / size.width),
    recipe,
    clipped: false,
  });
};

/** The picture in space: a focus stack over its map of depth, or a panorama from within. */
export function Relief({ session, recipe, kind, onClose }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const space = useRef<Space>(undefined);
  const fullReady = useStore(session.store, (s) => s.fullReady);
  const shown = useRef(false);
  const [height, setHeight] = useState(0.25);
  const [failed, setFailed] = useState<string>();
  useEffect(() => {
    let live = true;
    void (async () => {
      const { layout } = session.state;
      const made =
        kind === "relief" ? await session.relief(recipe) : await allRound(session, recipe);
      if (!live || !host.current || !made) return;
      space.current =
        "depth" in made
          ? await showRelief(host.current, made)
          : layout && (await showSphere(host.current, made, layout.canvas));
      space.current?.raise(0.25);
    })().catch((e: unknown) => live && setFailed(e instanceof Error ? e.message : String(e)));
    return () => {
      live = false;
      space.current?.close();
    };
  }, [session, recipe, kind]);
  // the full-size picture takes the place of the smaller one as soon as it is there
  useEffect(() => {
    if (!shown.current) {
      shown.current = true;
      return;
    }
    if (fullReady && kind === "sphere")
      void allRound(session, recipe).then(
        (v) => v && space.current?.show(v),
        () => undefined,
      );
  }, [fullReady]); // eslint-disable-line react-hooks/exhaustive-deps
  return (
    <Dialog.Root
      open
      onOpenChange={(o) => {
        if (!o) onClose();
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/50" />
        <Dialog.Content
          className="fixed inset-8 flex flex-col rounded-lg border border-line bg-panel"
          aria-describedby={undefined}
          onOpenAutoFocus={(e) => {
            e.preventDefault();
            host.current?.focus();
          }}
        >
          <div className="flex h-11 items-center gap-3 px-4">
            <Dialog.Title className="grow font-semibold">
              {kind === "relief" ? "Depth in 3D" : "360° view"}
            </Dialog.Title>
            {kind === "relief" && (
              <div className="w-80">
                <NumberSlider
                  label="Height"
                  hint="Exaggerates the depth."
                  unit="%"
                  min={0}
                  max={0.6}
                  step={0.01}
                  reset={0.25}
                  value={height}
                  shown={(v) => String(Math.round(v * 100))}
                  parse={(n) => n / 100}
                  onChange={(v) => {
                    setHeight(v);
                    space.current?.raise(v);
                  }}
                  onCommit={() => undefined}
                />
              </div>
            )}
            <span className="text-[12px] text-quiet">
              {kind === "relief"
                ? "Drag to turn, wheel to come nearer"
                : "Drag or arrow keys to look round, Home for ahead, wheel for the field of view"}
            </span>
            <Dialog.Close asChild>
              <Button variant="plain">Close</Button>
            </Dialog.Close>
          </div>
          <div
            ref={host}
            tabIndex={0}
            aria-label={
              kind === "relief" ? "The picture over its depth" : "The panorama from within"
            }
            className="min-h-0 grow bg-well focus-visible:outline-1! focus-visible:-outline-offset-1! focus-visible:outline-quiet!"
          >
            {failed && (
              <p role="alert" className="p-4">
                It could not be drawn: {failed}. This needs WebGL, which the browser may have
                switched off.
              </p>
            )}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
