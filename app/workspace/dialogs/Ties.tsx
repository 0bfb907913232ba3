import { Select } from "../../ui/Select";
import { Checkbox } from "../../ui/Checkbox";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Dialog } from "radix-ui";
import { useEffect, useMemo, useState, type KeyboardEvent } from "react";
import { useStore } from "zustand";
import { seen, worldRay } from "../../../core/panorama/camera";
import type { PanoramaRecipe } from "../../../pipeline/recipe/recipe";
import type { StackSession } from "../../work/session";
import { Button } from "../../ui/Button";
import { plainNumber } from "../../ui/format";
import { frameName } from "../state/frameName";
import type { Partaking } from "../state/partaking";
import { tieList, without, type Tie } from "./tieList";
import { TiePane, type Mark } from "./TiePane";
import type { Viewport } from "../picture/viewport";
import { clamp } from "../../../core/math/clamp";

interface Props {
  session: StackSession;
  recipe: PanoramaRecipe;
  /** those that take part */
  frames: readonly Partaking[];
  /** shown first */
  pair: readonly [number, number];
  onKeep: (r: PanoramaRecipe, label: string) => void;
  onHistory: (intent: "undo" | "redo") => void;
  onClose: () => void;
}

const ROW = 28;
const WHOLE: Viewport = { zoom: "fit", cx: 0, cy: 0 };

/** All ties of a panorama, both places of each side by side; they are set and removed manually. */
export function Ties({ session, recipe, frames, pair, onKeep, onHistory, onClose }: Props) {
  const s = useStore(session.store);
  const { layout } = s;
  const [[a, b], setPair] = useState(pair);
  const [only, setOnly] = useState(false);
  const [at, setAt] = useState<string>();
  const [views, setViews] = useState<[Viewport, Viewport]>([WHOLE, WHOLE]);
  /** what was pointed at while a tie is set: in neither frame, in one, or in both without a fit */
  const [fresh, setFresh] = useState<string>();
  const [setting, setSetting] = useState<{
    from?: [number, number];
    to?: [number, number];
    unfit?: boolean;
  }>();
  const all = useMemo(
    () => tieList(layout, frames, recipe.panorama.ties),
    [layout, frames, recipe.panorama.ties],
  );
  const ofPair = all.filter((t) => t.a === Math.min(a, b) && t.b === Math.max(a, b));
  const rows = only ? ofPair : all;
  const index = rows.findIndex((t) => t.key === at);
  const current = rows[index];
  // the dialog's content comes after the first rendering
  const [list, setList] = useState<HTMLDivElement | null>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list,
    estimateSize: () => ROW,
    overscan: 10,
  });
  // a tie that was just set is shown in its place among the others
  useEffect(() => {
    const i = fresh === undefined ? -1 : rows.findIndex((t) => t.own === fresh);
    if (i < 0) return;
    setAt(rows[i]!.key);
    setFresh(undefined);
    virtual.scrollToIndex(i, { align: "center" });
  }, [fresh, rows]); // eslint-disable-line react-hooks/exhaustive-deps
  const busy = s.phase === "working";
  const [A, B] = [frames[a]!, frames[b]!];
  const { ties, dropped } = recipe.panorama;
  const keep = (part: Partial<PanoramaRecipe["panorama"]>, label: string): void =>
    onKeep({ ...recipe, panorama: { ...recipe.panorama, ...part } }, label);
  const go = (t: Tie | undefined): void => {
    if (!t) return;
    setAt(t.key);
    setSetting(undefined);
    setPair([t.a, t.b]);
    const [f, g] = [frames[t.a]!, frames[t.b]!];
    setViews([
      { zoom: 1, cx: t.from[0] * f.width, cy: t.from[1] * f.height },
      { zoom: 1, cx: t.to[0] * g.width, cy: t.to[1] * g.height },
    ]);
  };
  const step = (by: number): void => {
    const i = clamp(index < 0 ? 0 : index + by, 0, rows.length - 1);
    go(rows[i]);
    if (rows.length) virtual.scrollToIndex(i);
  };
  const remove = (gone: readonly Tie[], label: string): void => {
    if (gone.length) keep(without(recipe.panorama, gone, frames), label);
  };
  const removeCurrent = (): void => {
    if (current) {
      const next = rows[index + 1] ?? rows[index - 1];
      remove([current], current.own ? "Delete a tie" : "Remove a tie");
      go(next);
    }
  };
  const add = (from: [number, number], to: [number, number]): void => {
    const id = crypto.randomUUID();
    setSetting({});
    setFresh(id);
    keep(
      {
        ties: [
          ...ties,
          {
            id,
            a: A.id,
            b: B.id,
            from: [from[0] / A.width, from[1] / A.height],
            to: [to[0] / B.width, to[1] / B.height],
          },
        ],
      },
      `Tie ${frameName(A.name)} and ${frameName(B.name)}`,
    );
  };
  const point = (which: "from" | "to", x: number, y: number): void => {
    const now = { ...setting, unfit: false, [which]: [x, y] as [number, number] };
    setSetting(now);
    if (!now.from || !now.to) return;
    const { from, to } = now;
    void session.placeTie(a, b, [...from, ...to]).then(
      (found) =>
        found
          ? add([found[0], found[1]], [found[2], found[3]])
          : setSetting({ from, to, unfit: true }),
      () => setSetting({ from, to, unfit: true }),
    );
  };
  const choose = (which: 0 | 1, i: number): void => {
    const next: [number, number] = which ? [a, i] : [i, b];
    // the other pane shows what this one showed, so that no frame is held against itself
    if (next[0] === next[1]) next[which ? 0 : 1] = which ? b : a;
    setPair(next);
    setAt(undefined);
    setSetting(setting && {});
    setViews([WHOLE, WHOLE]);
  };
  const onKeys = (e: KeyboardEvent): void => {
    const t = e.target as HTMLElement;
    const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
    if (t.closest("select, input")) return;
    const does: Record<string, () => void> = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      Delete: removeCurrent,
      n: () => setSetting(setting ? undefined : {}),
      f: () => setViews([WHOLE, WHOLE]),
      z: () => {
        if (e.ctrlKey || e.metaKey) onHistory(e.shiftKey ? "redo" : "undo");
      },
    };
    const f = does[key];
    if (f) {
      e.preventDefault();
      f();
    }
  };
  /** Where a tie's place in one frame should be by the cameras, from its place in the other. */
  const should = (of: number, x: number, y: number, to: number): [number, number] | undefined => {
    const [p, q] = [layout?.cameras[of], layout?.cameras[to]];
    return p && q && seen(q, worldRay(p, x, y));
  };
  const marksOf = (which: 0 | 1): Mark[] => [
    ...ofPair.map((t): Mark => {
      const here = (which ? b : a) === t.a;
      const [own, other] = here ? [t.from, t.to] : [t.to, t.from];
      const [f, g] = [frames[here ? t.a : t.b]!, frames[here ? t.b : t.a]!];
      return {
        key: t.key,
        x: own[0] * f.width,
        y: own[1] * f.height,
        on: t.key === at,
        own: t.own !== undefined,
        ...(t.key === at
          ? {
              should: should(
                here ? t.b : t.a,
                other[0] * g.width,
                other[1] * g.height,
                here ? t.a : t.b,
              ),
            }
          : {}),
      };
    }),
    ...(setting?.[which ? "to" : "from"]
      ? [
          {
            key: "new",
            x: setting[which ? "to" : "from"]![0],
            y: setting[which ? "to" : "from"]![1],
            on: true,
            own: true,
          },
        ]
      : []),
  ];
  const panes = [
    [A, a, "from"],
    [B, b, "to"],
  ] as const;
  const lone = (i: number): string => (layout?.cameras[i] ? "" : ", not placed");
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
          aria-busy={busy}
          className="fixed inset-6 flex flex-col rounded-lg outline-none border border-line bg-panel"
          aria-describedby={undefined}
          onKeyDown={onKeys}
          onOpenAutoFocus={(e) => {
            e.preventDefault();
            (e.currentTarget as HTMLElement).querySelector<HTMLElement>("[role=listbox]")?.focus();
          }}
          onEscapeKeyDown={(e) => {
            if (setting) {
              e.preventDefault();
              setSetting(undefined);
            }
          }}
        >
          <div className="flex h-11 shrink-0 items-center gap-2 px-4">
            <Dialog.Title className="font-semibold">Ties</Dialog.Title>
            {setting ? (
              <span
                role={setting.unfit ? "alert" : "status"}
                className="min-w-0 grow text-[12px] leading-4"
              >
                {askedOf(setting)}
                {busy && <span className="text-quiet"> {s.doing}</span>}
              </span>
            ) : (
              <span className="min-w-0 grow truncate text-[12px] text-quiet">
                {busy
                  ? s.doing
                  : `${all.filter((t) => t.errorPx !== undefined).length} ties hold ${layout?.cameras.filter(Boolean).length ?? 0} of ${frames.length} frames${dropped.length ? `, ${dropped.length} removed` : ""}`}
              </span>
            )}
            {setting?.unfit && (
              <Button onClick={() => add(setting.from!, setting.to!)}>Keep as it is</Button>
            )}
            <Button
              variant={setting ? "accent" : "raised"}
              aria-pressed={setting !== undefined}
              onClick={() => setSetting(setting ? undefined : {})}
              hint="Point at the same thing in both frames; its exact place in the second is found (N)"
            >
              Set a tie
            </Button>
            <Button
              disabled={!current}
              onClick={removeCurrent}
              hint="The panorama is aligned again without it (Delete)"
            >
              {current?.own ? "Delete" : "Remove"}
            </Button>
            <Button
              disabled={!dropped.length}
              onClick={() => keep({ dropped: [] }, "Restore ties")}
              hint="All removed ties count again"
            >
              Restore
            </Button>
            <Dialog.Close asChild>
              <Button variant="plain">Close</Button>
            </Dialog.Close>
          </div>
          {s.error && (
            <p role="alert" className="shrink-0 border-t border-line px-4 py-2 text-[12px]">
              {s.error.message}{" "}
              <span className="text-quiet">
                {s.error.remedy && `What to do: ${s.error.remedy}.`}
              </span>
            </p>
          )}
          <div className="grid min-h-0 grow grid-cols-[1fr_1fr_264px] gap-px border-t border-line bg-line">
            {panes.map(([f, i, which], k) => (
              <TiePane
                key={which}
                session={session}
                recipe={recipe}
                frame={i}
                name={f.name}
                size={f}
                marks={marksOf(k as 0 | 1)}
                viewport={views[k]!}
                onViewport={(v) => setViews((was) => (k ? [was[0], v] : [v, was[1]]))}
                onPlace={setting ? (x, y) => point(which, x, y) : undefined}
                onMark={(key) => setAt(key)}
              />
            ))}
            <div className="flex min-h-0 flex-col bg-panel">
              {panes.map(([, i], k) => (
                <label key={k} className="flex items-center gap-2 px-3 pt-2 text-[12px]">
                  <span className="w-10 text-quiet">{k ? "Right" : "Left"}</span>
                  <Select
                    name={k ? "Frame on the right" : "Frame on the left"}
                    className="grow"
                    value={String(i)}
                    options={frames.map(({ name }, j) => ({
                      value: String(j),
                      text: `${frameName(name)}${lone(j)}`,
                    }))}
                    onChange={(to) => choose(k as 0 | 1, Number(to))}
                  />
                </label>
              ))}
              <label className="flex h-9 shrink-0 items-center gap-2 px-3 text-[12px]">
                <Checkbox checked={only} onChange={(on) => setOnly(on)} />
                Only these two, {ofPair.length} ties
              </label>
              <div
                ref={setList}
                role="listbox"
                aria-label="Ties, worst first"
                tabIndex={0}
                className="min-h-0 grow overflow-auto"
              >
                {!rows.length && (
                  <p className="px-3 py-2 text-[12px] text-quiet">
                    {busy
                      ? "Laying out frames"
                      : "Nothing ties these two frames. Set two ties or more manually."}
                  </p>
                )}
                <div className="relative" style={{ height: virtual.getTotalSize() }}>
                  {virtual.getVirtualItems().map((item) => {
                    const t = rows[item.index]!;
                    return (
                      <div
                        key={item.index}
                        role="option"
                        aria-selected={t.key === at}
                        onClick={() => go(t)}
                        style={{ transform: `translateY(${item.start}px)`, height: ROW }}
                        className={`absolute inset-x-0 top-0 flex cursor-pointer items-center gap-2 px-3 text-[12px] ${t.key === at ? "bg-raised" : ""}`}
                      >
                        <span className="min-w-0 grow truncate">
                          {frameName(frames[t.a]!.name)} – {frameName(frames[t.b]!.name)}
                        </span>
                        {t.own && t.errorPx !== undefined && (
                          <span className="text-quiet">manual</span>
                        )}
                        <span>
                          {t.errorPx === undefined
                            ? "holds nothing"
                            : `${plainNumber(t.errorPx, 2)} px`}
                        </span>
                      </div>
                    );
                  })}
                </div>
              </div>
              <div className="flex shrink-0 items-center gap-2 border-t border-line px-3 py-2">
                <Button
                  variant="plain"
                  className="px-2"
                  disabled={!ofPair.length}
                  onClick={() =>
                    remove(
                      ofPair,
                      `Remove all ties of ${frameName(A.name)} and ${frameName(B.name)}`,
                    )
                  }
                  hint="Removes all tie points between these two frames"
                >
                  Remove all {ofPair.length} of this pair
                </Button>
              </div>
            </div>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What the user is asked for while a tie is being set. */
function askedOf(setting: { from?: unknown; to?: unknown; unfit?: boolean }): string {
  if (setting.unfit)
    return "Nothing near the second place fits the first. Point nearer, or at more texture, or keep it as it is.";
  if (setting.from) return "Now the same thing in the frame on the right.";
  if (setting.to) return "Now the same thing in the frame on the left.";
  return "Point at something that both frames show: a corner, a spot with texture.";
}
