import { shownAgain } from "../../pipeline/align/step";
import type { Camera } from "../../core/panorama/camera";
import { rowOf } from "../../core/panorama/layout/row";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { SPACES, type SpaceId } from "../../core/colour/spaces";
import type { Projection } from "../../core/panorama/canvas/projection";
import { deliveredSize } from "../../pipeline/deliver/step";
import type { Layout } from "../../pipeline/panorama/layout";
import type { Frame } from "../store/records";
import type { Kept, SessionState } from "../work/session";
import type { ReactNode } from "react";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { TextField } from "../ui/TextField";
import { NumberSlider } from "../ui/NumberSlider";
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
import { OUTPUT_FORMAT_IDS, OUTPUT_FORMATS } from "../../codecs/outputFormats";

const DEPTHS = [
  { value: "8", text: "8 bit" },
  { value: "16", text: "16 bit" },
  { value: "32f", text: "32-bit float" },
] as const;
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

/** The stem's nodes: for each step its sentence, written from what it did, and its controls. */
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
  const slide = <S extends "tone" | "finish">(
    step: S,
    key: keyof Recipe[S] & string,
    label: string,
  ) => ({
    onChange: (v: number) => edit.show({ ...r, [step]: { ...r[step], [key]: v } }),
    onCommit: (v: number) => edit.keep({ ...r, [step]: { ...r[step], [key]: v } }, label),
  });
  const percent = {
    shown: (v: number) => String(Math.round(v * 100)),
    parse: (n: number) => n / 100,
  };
  const stops = { shown: (v: number) => signed(v, 2).replace("\u2212", "-") };
  const whole = { shown: (v: number) => String(Math.round(v)) };
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
          <Choice
            label="Motion"
            hint="What may have moved between frames; Auto measures it."
            value={r.align.motion}
            options={[
              { value: "auto", text: "Auto" },
              { value: "none", text: "None" },
              { value: "shift", text: "Shift" },
              { value: "similarity", text: "Shift and roll" },
              { value: "homography", text: "Perspective" },
            ]}
            onChange={(motion) => edit.keep({ ...r, align: { ...r.align, motion } }, "Motion")}
          />
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
          {r.kind === "bracket" && (
            <Choice
              label="Method"
              hint="Radiance keeps all light for toning; Fusion blends the exposures as they look."
              value={r.merge.method}
              options={[
                { value: "radiance", text: "Radiance" },
                { value: "fusion", text: "Fusion" },
              ]}
              onChange={(method) =>
                edit.keep({ ...r, merge: { ...r.merge, method } }, "Merge method")
              }
            />
          )}
          {r.kind === "focus" && (
            <Choice
              label="Method"
              hint="Pyramid takes the sharpest of every scale, best where hairs cross; Depth composes along a map of depth, best on smooth ground; Mixed takes each where it is right."
              value={r.merge.method}
              options={[
                { value: "mixed", text: "Mixed" },
                { value: "pyramid", text: "Pyramid" },
                { value: "depth", text: "Depth" },
              ]}
              onChange={(method) =>
                edit.keep({ ...r, merge: { ...r.merge, method } }, "Merge method")
              }
            />
          )}
          {r.kind === "bracket" && (
            <label className="grid grid-cols-[84px_1fr] items-center gap-2">
              <span className="text-quiet">Reference</span>
              <select
                className="h-7 rounded border border-line bg-raised px-2"
                value={String(r.merge.reference)}
                onChange={(e) =>
                  edit.keep(
                    {
                      ...r,
                      merge: {
                        ...r.merge,
                        reference: e.target.value === "auto" ? "auto" : Number(e.target.value),
                      },
                    },
                    "Reference frame",
                  )
                }
              >
                <option value="auto">Middle exposure</option>
                {used.map((f, i) => (
                  <option key={f.id} value={i}>
                    {f.info.name}
                  </option>
                ))}
              </select>
            </label>
          )}
          {r.kind !== "panorama" && (
            <Choice
              label="Sampling"
              hint="How moved frames are resampled: Cubic suits most; Sharp (Lanczos) keeps the finest texture, with faint rims at hard edges; Soft (linear) never has rims."
              value={r.merge.sampling}
              options={[
                { value: "bicubic", text: "Cubic" },
                { value: "lanczos3", text: "Sharp" },
                { value: "bilinear", text: "Soft" },
              ]}
              onChange={(sampling) =>
                edit.keep({ ...r, merge: { ...r.merge, sampling } }, "Sampling")
              }
            />
          )}
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
          <label className="grid grid-cols-[84px_1fr] items-center gap-2 py-0.5">
            <span className="text-quiet">Projection</span>
            <select
              aria-label="Projection"
              className="h-6 w-full min-w-0 rounded border border-line bg-panel px-1"
              value={r.panorama.projection}
              onChange={(e) =>
                edit.keep(
                  {
                    ...r,
                    panorama: {
                      ...r.panorama,
                      projection: e.target.value as Recipe["panorama"]["projection"],
                    },
                  },
                  "Projection",
                )
              }
            >
              <option value="auto">By field of view</option>
              {Object.entries(PROJECTIONS_SHOWN).map(([k, text]) => (
                <option key={k} value={k}>
                  {text}
                </option>
              ))}
            </select>
          </label>
          {(r.panorama.projection === "panini" ||
            session.layout?.canvas.projection === "panini") && (
            <NumberSlider
              label="Distance"
              hint="Projection distance: 0 % keeps all lines straight, 100 % is usual, more squeezes the sides."
              unit="%"
              min={0}
              max={1.5}
              step={0.01}
              reset={1}
              value={r.panorama.distance}
              {...percent}
              onChange={(distance) => edit.show({ ...r, panorama: { ...r.panorama, distance } })}
              onCommit={(distance) =>
                edit.keep({ ...r, panorama: { ...r.panorama, distance } }, "Distance")
              }
            />
          )}
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
          : `${TONES[r.tone.operator]}${r.tone.operator === "plain" || r.tone.operator === "none" ? "" : `, ${Math.round(r.tone.strength * 100)} %`}${r.tone.lifts.some((v) => v) ? ", zones lifted" : ""}`,
      controls: (
        <>
          {r.merge.method !== "fusion" && (
            <Choice
              label="Operator"
              hint="Local evens out windows and shadows; Base keeps them softer; Global is one curve; Plain only sets the exposure."
              value={r.tone.operator === "none" ? "plain" : r.tone.operator}
              options={[
                { value: "local", text: "Local" },
                { value: "base", text: "Base" },
                { value: "global", text: "Global" },
                { value: "plain", text: "Plain" },
              ]}
              onChange={(operator) =>
                edit.keep({ ...r, tone: { ...r.tone, operator } }, "Tone operator")
              }
            />
          )}
          {r.merge.method !== "fusion" &&
            r.tone.operator !== "plain" &&
            r.tone.operator !== "none" && (
              <>
                <NumberSlider
                  label="Strength"
                  hint="How far bright and dark areas are brought together."
                  unit="%"
                  min={0}
                  max={1}
                  step={0.01}
                  reset={0.7}
                  value={r.tone.strength}
                  {...percent}
                  {...slide("tone", "strength", "Strength")}
                />
                {r.tone.operator !== "global" && (
                  <NumberSlider
                    label="Detail"
                    hint="Texture within areas, softer or crisper."
                    unit="%"
                    min={-1}
                    max={1}
                    step={0.01}
                    reset={0.15}
                    value={r.tone.detail}
                    {...percent}
                    {...slide("tone", "detail", "Detail")}
                  />
                )}
              </>
            )}
          <NumberSlider
            label="Exposure"
            hint="Brightness of the whole picture."
            unit="EV"
            min={-4}
            max={4}
            step={0.05}
            reset={0}
            value={r.tone.exposure}
            {...stops}
            {...slide("tone", "exposure", "Exposure")}
          />
          <ZoneLifts
            lifts={r.tone.lifts}
            statistics={session.statistics}
            onShow={(lifts) => edit.show({ ...r, tone: { ...r.tone, lifts } })}
            onKeep={(lifts) => edit.keep({ ...r, tone: { ...r.tone, lifts } }, "Lift a zone")}
          />
          <NumberSlider
            label="White end"
            hint="Moves the lightest tones."
            unit="EV"
            min={-2}
            max={2}
            step={0.05}
            reset={0}
            value={r.tone.white}
            {...stops}
            {...slide("tone", "white", "White end")}
          />
          <NumberSlider
            label="Black end"
            hint="Moves the darkest tones."
            unit="EV"
            min={-3}
            max={3}
            step={0.05}
            reset={0}
            value={r.tone.black}
            {...stops}
            {...slide("tone", "black", "Black end")}
          />
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
          <NumberSlider
            label="Contrast"
            hint="Steeper or flatter around middle grey."
            unit="%"
            min={-1}
            max={1}
            step={0.01}
            reset={0}
            value={r.finish.contrast}
            {...percent}
            {...slide("finish", "contrast", "Contrast")}
          />
          <NumberSlider
            label="Saturation"
            hint="Strength of colour; the minimum is grey."
            unit="%"
            min={-1}
            max={1}
            step={0.01}
            reset={0}
            value={r.finish.saturation}
            {...percent}
            {...slide("finish", "saturation", "Saturation")}
          />
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
          <Choice
            label="Format"
            hint="TIFF and PNG are without loss; EXR and HDR carry light itself, for other programs."
            value={r.deliver.format}
            options={OUTPUT_FORMAT_IDS.map((value) => ({
              value,
              text: OUTPUT_FORMATS[value].name,
            }))}
            onChange={(format) =>
              edit.keep(
                {
                  ...r,
                  deliver: {
                    ...r.deliver,
                    format,
                    depth: OUTPUT_FORMATS[format].depths[0],
                  },
                },
                "Format",
              )
            }
          />
          {!output.light && output.depths.length > 1 && (
            <Choice
              label="Depth"
              hint="Bits a channel."
              value={r.deliver.depth}
              options={DEPTHS.filter(({ value }) =>
                (output.depths as readonly string[]).includes(value),
              )}
              onChange={(depth) => edit.keep({ ...r, deliver: { ...r.deliver, depth } }, "Depth")}
            />
          )}
          {r.deliver.format === "exr" && (
            <Choice
              label="Depth"
              hint="Half floats hold 3 digits and 30 EV in half the size."
              value={r.deliver.depth === "32f" ? "32f" : "16"}
              options={[
                { value: "16", text: "16-bit half" },
                { value: "32f", text: "32-bit float" },
              ]}
              onChange={(depth) => edit.keep({ ...r, deliver: { ...r.deliver, depth } }, "Depth")}
            />
          )}
          {r.deliver.format === "tif" && (
            <Choice
              label="Compression"
              hint="Without loss; older programs read only the first."
              value={r.deliver.compression}
              options={[
                { value: "none", text: "None" },
                { value: "lzw", text: "LZW" },
                { value: "deflate", text: "Deflate" },
              ]}
              onChange={(compression) =>
                edit.keep({ ...r, deliver: { ...r.deliver, compression } }, "Compression")
              }
            />
          )}
          <Choice<SpaceId>
            label="Space"
            hint="The colour space; its profile is embedded."
            value={r.deliver.space}
            options={[
              { value: "srgb", text: "sRGB" },
              { value: "p3", text: "Display P3" },
              { value: "adobe", text: "Adobe RGB compatible" },
              { value: "prophoto", text: "ProPhoto" },
            ]}
            onChange={(space) =>
              edit.keep({ ...r, deliver: { ...r.deliver, space } }, "Colour space")
            }
          />
          {r.deliver.format === "jpg" && (
            <NumberSlider
              label="Quality"
              hint="Size against fidelity of the JPEG."
              unit=""
              min={50}
              max={100}
              step={1}
              reset={92}
              value={r.deliver.quality}
              {...whole}
              onChange={(q) =>
                edit.show({ ...r, deliver: { ...r.deliver, quality: Math.round(q) } })
              }
              onCommit={(q) =>
                edit.keep({ ...r, deliver: { ...r.deliver, quality: Math.round(q) } }, "Quality")
              }
            />
          )}
          {r.deliver.format === "jpg" && (
            <Choice
              label="Colour"
              hint="Half resolution of colour makes smaller files."
              value={r.deliver.chroma}
              options={[
                { value: "full", text: "Full" },
                { value: "half", text: "Half" },
              ]}
              onChange={(chroma) =>
                edit.keep({ ...r, deliver: { ...r.deliver, chroma } }, "Resolution of colour")
              }
            />
          )}
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
          <TextField
            label="Creator"
            hint="Written into the file."
            value={r.deliver.creator}
            onCommit={(creator) =>
              edit.keep({ ...r, deliver: { ...r.deliver, creator } }, "Creator")
            }
          />
          <TextField
            label="Copyright"
            hint="Written into the file."
            value={r.deliver.copyright}
            onCommit={(copyright) =>
              edit.keep({ ...r, deliver: { ...r.deliver, copyright } }, "Copyright")
            }
          />
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
  return nodes.filter((n) => !WITHOUT[r.kind].includes(n.name));
}

/** Steps that a kind has no use for. */
const WITHOUT: Record<Recipe["kind"], readonly string[]> = {
  bracket: ["panorama"],
  panorama: ["align", "merge", "ghosts"],
  focus: ["panorama"],
};
const PROJECTIONS_SHOWN: Record<Projection, string> = {
  rectilinear: "Rectilinear",
  cylindrical: "Cylindrical",
  equirectangular: "Equirectangular",
  mercator: "Mercator",
  panini: "Panini",
  stereographic: "Stereographic",
};

const MERGES: Record<Recipe["merge"]["method"], string> = {
  radiance: "Radiance, weighted by noise",
  fusion: "Fused, the best of each exposure",
  pyramid: "Fused, the sharpest at every place and scale",
  depth: "Composed along the depth",
  mixed: "Composed along the depth, fused where depths cross",
};
const TONES: Record<Recipe["tone"]["operator"], string> = {
  local: "Local, edges kept",
  base: "Base and detail",
  global: "One curve",
  plain: "Plain, as the reference frame",
  none: "None, light itself",
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
