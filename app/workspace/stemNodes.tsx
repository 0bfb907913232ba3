import { shownAgain } from "../../pipeline/align/step";
import type { Camera } from "../../core/panorama/camera";
import { rowOf } from "../../core/panorama/layout/row";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { SPACES } from "../../core/colour/spaces";
import type { Projection } from "../../core/panorama/canvas/projection";
import { deliveredSize } from "../../pipeline/deliver/step";
import type { Layout } from "../../pipeline/panorama/layout";
import type { Frame } from "../store/records";
import type { Kept, SessionState } from "../work/sessionState";
import type { ReactNode } from "react";
import { Button } from "../ui/Button";
import { TextField } from "../ui/TextField";
import { plainNumber, shutter, signed } from "../ui/format";
import { relativeEvs } from "../board/exposures";
import type { LensFit } from "../../core/frame/measureLens";
import type { Edit } from "./edit";
import { EdgesControls, edgesSentence } from "./EdgesControls";
import type { Overlay } from "./cropShape";
import { GhostControls, type Drawing } from "./GhostControls";
import { OutputFacts } from "./OutputFacts";
import { PanoramaLens } from "./PanoramaLens";
import { PrepareControls, prepareSentence, type DustFinder } from "./PrepareControls";
import type { Node } from "./Stem";
import { Slab } from "./Slab";
import { Upright } from "./Upright";
import { ZoneLifts } from "./ZoneLifts";
import { alignSentence, ghostSentence } from "./stemSentences";
import { OUTPUT_FORMATS, type OutputFormat } from "../../codecs/outputFormats";
import { TONE_OPERATORS } from "../../core/tone/operators/operators";
import { panoramaSettings } from "../../pipeline/panorama/settings";
import { hasStep } from "../../pipeline/kindSteps";
import type { SettingName } from "../../pipeline/settings/reference";
import { Menu } from "../ui/Menu";
import { SettingControl, type SettingOptions } from "./SettingControl";

/** The depths that a format can hold; half floats are said to be so. */
const depthsOf = (format: OutputFormat): NonNullable<SettingOptions["options"]> =>
  OUTPUT_FORMATS[format].depths.map((value) => ({
    value,
    text: format === "exr" && value === "16" ? "16-bit half" : DEPTH_NAMES[value],
  }));
const DEPTH_NAMES = { "8": "8 bit", "16": "16 bit", "32f": "32-bit float" } as const;
const residualText = (px: number | undefined): string =>
  px === undefined ? "not known" : plainNumber(px, 2);

interface Input {
  recipe: Recipe;
  frames: Frame[];
  session: SessionState;
  edit: Edit;
  picking: boolean;
  onPicking: (on: boolean) => void;
  drawing: Drawing | undefined;
  onDraw: (d: Drawing | undefined) => void;
  brush: number;
  onBrush: (r: number) => void;
  /** renders and saves, and says how far it is */
  deliverButton: ReactNode;
  onFrame: (i: number) => void;
  /** the frame that a stroke is given to at once, by its place */
  from: number | undefined;
  onFrom: (i: number | undefined) => void;
  grid: boolean;
  onGrid: (on: boolean) => void;
  pickFor: string | undefined;
  onPickFor: (id: string | undefined) => void;
  dust: DustFinder;
  ofShoot: { on: boolean; toggle: () => void };
  /** the frame that is looked at, by its place */
  at: number | undefined;
  measureLens: () => Promise<LensFit>;
  kept: Kept | undefined;
  /** what a file of so many px will take */
  expected: (out: { width: number; height: number }) => {
    bytes: number;
    ms: number;
  };
  crop: { overlay: Overlay; onOverlay: (o: Overlay) => void };
  rowOf: (i: number) => readonly string[];
}

/**
 * What set a panorama upright, and how sure that is; nothing of it where guides or a manual turn
 * did.
 */
function levelSaid({ levelled, view }: Layout): string {
  if (!levelled || view.guides.some((g) => g.kind !== "straight") || view.roll || view.pitch)
    return "";
  const by = { camera: "how the camera was held", verticals: "verticals", horizon: "the horizon" }[
    levelled.by
  ];
  return `level by ${by}, \u00b1${plainNumber(Math.max(0.05, levelled.degrees), levelled.degrees < 0.1 ? 2 : 1)}\u00b0, `;
}

/** The stem's nodes: for each step its sentence, written from what it did, and its controls. */
export function stemNodes({
  recipe: r,
  frames,
  session,
  edit,
  picking,
  onPicking,
  drawing,
  onDraw,
  brush,
  onBrush,
  deliverButton,
  onFrame,
  from,
  onFrom,
  grid,
  onGrid,
  pickFor,
  onPickFor,
  dust,
  ofShoot,
  at,
  measureLens,
  rowOf: mates,
  kept,
  expected,
  crop,
}: Input): Node[] {
  const evs = relativeEvs(frames);
  const known = evs.filter((e): e is number => e !== undefined);
  const used = frames.filter((f) => !r.frames.leftOut.includes(f.id));
  const again = shownAgain(session.aligned);
  const failed =
    session.aligned?.frames.flatMap((f, i) =>
      f.warning &&
      !again.has(i) &&
      !r.align.forced.includes(frames[i]?.id ?? "") &&
      !r.frames.leftOut.includes(frames[i]?.id ?? "")
        ? [`${frames[i]?.info.name} ${f.warning}`]
        : [],
    ) ?? [];
  const patchesOn = r.ghosts.patches.filter((p) => p.on).length;
  const busy = session.phase === "working";
  const state = (done: boolean): Node["state"] => {
    if (busy) return "running";
    if (done) return "done";
    return "fresh";
  };
  const isReady = session.phase === "ready";
  const said = { recipe: r, aligned: session.aligned, ready: isReady };
  const unbent = session.layout?.warnings.find((w) => w.code === "not-bent")?.message;
  const reference = session.aligned ? session.aligned.reference + 1 : undefined;
  const set = (setting: SettingName, more: SettingOptions = {}) => (
    <SettingControl setting={setting} recipe={r} edit={edit} {...more} />
  );
  const outSize = deliveredSize(kept?.region ?? session.size, r.deliver);
  const output = OUTPUT_FORMATS[r.deliver.format];
  const nodes: Node[] = [
    {
      name: "frames",
      title: "Frames",
      state: isReady ? "done" : state(false),
      sentence: `${used.length === frames.length ? `${frames.length} frames` : `${used.length} of ${frames.length} frames`}${known.length && r.kind === "bracket" ? `, ${signed(Math.min(...known))} to ${signed(Math.max(...known))} EV` : ""}`,
      controls: (
        <>
          {r.kind === "focus" && frames.length > 3 && (
            <Slab recipe={r} frames={frames} order={session.aligned?.order} edit={edit} />
          )}
          <ul>
            {frames.map((f, i) => (
              <li key={f.id} className="flex h-7 items-center gap-2">
                <input
                  type="checkbox"
                  aria-label={`Use ${f.info.name}`}
                  className="size-4 accent-(--accent)"
                  checked={!r.frames.leftOut.includes(f.id)}
                  disabled={used.length === 1 && used[0]!.id === f.id}
                  onChange={(e) =>
                    edit.keep(
                      {
                        ...r,
                        frames: {
                          leftOut: e.target.checked
                            ? r.frames.leftOut.filter((x) => x !== f.id)
                            : [...r.frames.leftOut, f.id],
                        },
                      },
                      `${e.target.checked ? "Use" : "Leave out"} ${f.info.name}`,
                    )
                  }
                />
                <button
                  type="button"
                  className="min-w-0 grow truncate rounded text-left hover:underline"
                  onClick={() => onFrame(i)}
                  title={`Look at ${f.info.name}`}
                >
                  {f.info.name}
                </button>
                <span className="text-[12px] text-quiet">{shutter(f.info.exif.exposureTime)}</span>
                <span className="w-10 text-right">
                  {evs[i] === undefined ? "–" : signed(evs[i])}
                </span>
              </li>
            ))}
          </ul>
        </>
      ),
    },
    {
      name: "prepare",
      title: "Prepare",
      state: prepareSentence(r) === "White balance as shot" ? "fresh" : "done",
      sentence: prepareSentence(r),
      controls: (
        <PrepareControls
          recipe={r}
          edit={edit}
          halfDiagonal={Math.hypot(frames[0]!.info.width, frames[0]!.info.height) / 2}
          picking={picking}
          onPicking={onPicking}
          drawing={drawing}
          onDraw={onDraw}
          brush={brush}
          onBrush={onBrush}
          grid={grid}
          onGrid={onGrid}
          pickFor={pickFor}
          onPickFor={onPickFor}
          dust={dust}
          ofShoot={ofShoot}
          frames={frames}
          at={at}
          onFrame={onFrame}
          measureLens={measureLens}
          rowOf={mates}
        />
      ),
    },
    {
      name: "align",
      title: "Align",
      state: failed.length ? "attention" : state(isReady),
      sentence: alignSentence(said, {
        used: used.length,
        failed,
        size: frames[0]?.info ?? { width: 1, height: 1 },
      }),
      controls: (
        <>
          {set("align.motion")}
          {session.aligned && (
            <table className="mt-2 w-full text-[12px]">
              <thead>
                <tr className="text-left text-quiet">
                  <th className="font-normal">Frame</th>
                  <th className="text-right font-normal">px</th>
                  <th className="text-right font-normal">°</th>
                  <th className="text-right font-normal">residual, px</th>
                </tr>
              </thead>
              <tbody>
                {session.aligned.frames.map((f, i) => {
                  const id = frames[i]?.id ?? "";
                  const misfit =
                    f.warning !== undefined && (!f.used || r.align.forced.includes(id));
                  return (
                    !r.frames.leftOut.includes(id) && (
                      <tr key={id} className="h-6">
                        <td className="max-w-20 truncate">{frames[i]?.info.name}</td>
                        <td className="text-right">{plainNumber(f.movedPx)}</td>
                        <td className="text-right">
                          {plainNumber(
                            (Math.atan2(f.fromReference[3]!, f.fromReference[0]!) * 180) / Math.PI,
                            2,
                          )}
                        </td>
                        <td className="text-right">
                          {misfit ? (
                            <Button
                              variant="plain"
                              className="h-6 px-1"
                              aria-pressed={f.used}
                              hint={`This frame ${f.warning}`}
                              onClick={() =>
                                edit.keep(
                                  {
                                    ...r,
                                    align: {
                                      ...r.align,
                                      forced: f.used
                                        ? r.align.forced.filter((x) => x !== id)
                                        : [...r.align.forced, id],
                                    },
                                  },
                                  f.used
                                    ? `Leave ${frames[i]?.info.name} out`
                                    : `Use ${frames[i]?.info.name} anyway`,
                                )
                              }
                            >
                              {f.used ? "forced" : "use anyway"}
                            </Button>
                          ) : (
                            residualText(f.residualPx)
                          )}
                        </td>
                      </tr>
                    )
                  );
                })}
              </tbody>
            </table>
          )}
        </>
      ),
    },
    {
      name: "merge",
      title: "Merge",
      state: state(isReady),
      sentence: `${MERGES[r.merge.method]}${reference ? `, reference ${reference}` : ""}`,
      controls: (
        <>
          {set("merge.method")}
          {r.kind === "bracket" && (
            <Menu
              label="Reference"
              hint="The frame that the others are aligned to, and that wins where things moved."
              value={String(r.merge.reference)}
              options={[
                { value: "auto", text: "Middle exposure" },
                ...used.map((f, i) => ({ value: String(i), text: f.info.name })),
              ]}
              onChange={(value) =>
                edit.keep(
                  {
                    ...r,
                    merge: { ...r.merge, reference: value === "auto" ? "auto" : Number(value) },
                  },
                  "Reference frame",
                )
              }
            />
          )}
          {set("merge.sampling")}
        </>
      ),
    },
    {
      name: "ghosts",
      title: r.kind === "focus" ? "Retouch" : "Ghosts",
      state: r.kind === "focus" && !patchesOn ? "fresh" : state(isReady),
      sentence: ghostSentence(said),
      controls: (
        <GhostControls
          recipe={r}
          edit={edit}
          frames={frames.map((f) => ({ id: f.id, name: f.info.name }))}
          drawing={drawing}
          onDraw={onDraw}
          brush={brush}
          onBrush={onBrush}
          from={from}
          onFrom={onFrom}
        />
      ),
    },
    {
      name: "panorama",
      title: "Panorama",
      state: session.layout?.leftOut.length ? "attention" : state(isReady),
      sentence: !session.layout
        ? "Waits for the frames"
        : `${session.layout.leftOut.length ? `${session.layout.leftOut.map((i) => used[i]?.info.name ?? "").join(", ")} left out: no overlap found; ` : `${used.length - session.layout.duplicates.length} frames placed, `}${twice(session.layout, used)}${session.layout.flat ? "on one plane, " : fromBeside(session.layout.cameras)}${PROJECTIONS_SHOWN[session.layout.canvas.projection].toLowerCase()}, ${levelSaid(session.layout)}ties ${plainNumber(Math.max(...session.layout.rmsPx), 2)} px`,
      controls: (
        <>
          {set("panorama.projection")}
          {(r.panorama.projection === "panini" || session.layout?.canvas.projection === "panini") &&
            set("panorama.distance")}
          <PanoramaLens recipe={r} edit={edit} layout={session.layout} />
          <Upright
            recipe={r}
            edit={edit}
            layout={session.layout}
            names={new Map(frames.map((f) => [f.id, f.info.name]))}
            besides={(id) => {
              const { layout } = session;
              const i = used.findIndex((f) => f.id === id || f.info.name === id);
              return layout
                ? rowOf(layout.cameras, i).flatMap((k) => (k === i ? [] : (used[k]?.id ?? [])))
                : [];
            }}
            drawing={drawing}
            onDraw={onDraw}
            brush={brush}
            onBrush={onBrush}
          />
          {session.layout && (
            <p className="mt-1 text-[12px] text-quiet">
              Lens {plainNumber(session.layout.cameras.find((c) => c)!.focalPx, 0)} px,{" "}
              {plainNumber(
                (session.layout.cameras.find((c) => c)!.focalPx /
                  Math.max(...frames.map((f) => Math.max(f.info.width, f.info.height)))) *
                  36,
                1,
              )}{" "}
              mm on 36 mm.
            </p>
          )}
        </>
      ),
    },
    {
      name: "tone",
      title: "Tone",
      state: isReady ? "done" : "fresh",
      sentence:
        r.merge.method === "fusion"
          ? "A fusion is toned already"
          : `${toneSaid(r.tone.operator)}${r.tone.operator === "plain" || r.tone.operator === "none" ? "" : `, ${Math.round(r.tone.strength * 100)} %`}${r.tone.lifts.some((v) => v) ? ", zones lifted" : ""}`,
      controls: (
        <>
          {set("tone.operator")}
          {set("tone.strength")}
          {set("tone.detail")}
          {set("tone.exposure")}
          <ZoneLifts
            lifts={r.tone.lifts}
            statistics={session.statistics}
            onShow={(lifts) => edit.show({ ...r, tone: { ...r.tone, lifts } })}
            onKeep={(lifts) => edit.keep({ ...r, tone: { ...r.tone, lifts } }, "Lift a zone")}
          />
          {set("tone.white")}
          {set("tone.black")}
        </>
      ),
    },
    {
      name: "finish",
      title: "Finish",
      state: r.finish.contrast || r.finish.saturation ? "done" : "fresh",
      sentence:
        r.finish.contrast || r.finish.saturation
          ? `Contrast ${signed(r.finish.contrast * 100, 0) || 0}, saturation ${signed(r.finish.saturation * 100, 0) || 0}`
          : "Nothing set",
      controls: (
        <>
          {set("finish.contrast")}
          {set("finish.saturation")}
        </>
      ),
    },
    {
      name: "edges",
      title: "Edges",
      state:
        unbent || (kept && r.edges.part !== "auto" && kept.empty > 0.0005)
          ? "attention"
          : state(isReady),
      sentence: unbent ? `Not bent: ${unbent}` : edgesSentence(r, kept?.region, kept?.empty ?? 0),
      controls: (
        <>
          <EdgesControls
            recipe={r}
            edit={edit}
            kept={kept?.region}
            picture={session.size}
            taken={frames[0]!.info}
            {...crop}
          />
        </>
      ),
    },
    {
      name: "deliver",
      title: "Deliver",
      state: "fresh",
      sentence: `${formatSentence(r.deliver)}, ${SPACES[r.deliver.space].name}`,
      controls: (
        <>
          {set("deliver.format", {
            also: (to) => ({
              ...to,
              deliver: { ...to.deliver, depth: OUTPUT_FORMATS[to.deliver.format].depths[0] },
            }),
          })}
          {output.depths.length > 1 &&
            set("deliver.depth", { options: depthsOf(r.deliver.format) })}
          {set("deliver.compression")}
          {set("deliver.space")}
          {set("deliver.quality")}
          {set("deliver.chroma")}
          <TextField
            label="Long edge"
            hint="Longer edge of the file in px; empty or 'full' leaves the picture as large as it is."
            value={r.deliver.longEdge ? `${r.deliver.longEdge} px` : "full"}
            onCommit={(t) => {
              const n = Number.parseInt(t, 10);
              edit.keep(
                { ...r, deliver: { ...r.deliver, longEdge: n > 0 ? Math.min(65535, n) : 0 } },
                "Long edge",
              );
            }}
          />
          <TextField
            label="Resolution"
            hint="Pixels per inch for printing; written into the file."
            value={`${r.deliver.ppi} ppi`}
            onCommit={(t) => {
              const n = Number.parseInt(t, 10);
              if (n > 0)
                edit.keep(
                  { ...r, deliver: { ...r.deliver, ppi: Math.min(4800, n) } },
                  "Resolution",
                );
            }}
          />
          {set("deliver.creator")}
          {set("deliver.copyright")}
          <OutputFacts
            out={outSize}
            ppi={r.deliver.ppi}
            expected={isReady ? () => expected(outSize) : undefined}
          />
          <div className="mt-2">{deliverButton}</div>
        </>
      ),
    },
  ];
  return nodes.filter((node) => hasStep(r.kind, node.name));
}

const PROJECTIONS_SHOWN = Object.fromEntries(
  panoramaSettings.fields.projection.options.map(({ value, text }) => [value, text]),
) as Record<Projection, string>;

const MERGES: Record<Recipe["merge"]["method"], string> = {
  radiance: "Radiance, weighted by noise",
  fusion: "Fused, the best of each exposure",
  pyramid: "Fused, the sharpest at every place and scale",
  depth: "Composed along the depth",
  mixed: "Composed along the depth, fused where depths cross",
};
const toneSaid = (operator: Recipe["tone"]["operator"]): string => {
  if (operator === "plain") return "Plain, as the reference frame";
  return operator === "none" ? "None, light itself" : TONE_OPERATORS[operator].sentence;
};

const twice = ({ duplicates: d }: Layout, used: readonly Frame[]): string => {
  if (!d.length) return "";
  if (d.length === 1)
    return `${used[d[0]!.frame]?.info.name} left out: it shows the same as ${used[d[0]!.of]?.info.name}; `;
  return `${d.length} left out that show the same as others; `;
};
const fromBeside = (cameras: readonly (Camera | undefined)[]): string => {
  const n = cameras.filter((c) => c?.offset).length;
  return n ? `${n} of them from beside, ` : "";
};

function formatSentence({ format, depth, quality }: Recipe["deliver"]): string {
  const bits = depth === "32f" ? "32-bit float" : `${depth}-bit`;
  if (format === "jpg") return `JPEG, quality ${quality}`;
  if (format === "png") return `${bits} PNG`;
  if (format === "tif") return `${bits} TIFF`;
  if (format === "exr") return `${depth === "32f" ? "Float" : "Half-float"} EXR, linear`;
  return "Radiance HDR, linear";
}
