import { frameName } from "../../state/frameName";
import { Checkbox } from "../../../ui/Checkbox";
import {
  isAbout,
  type ExceptionKey,
  type FrameException,
} from "../../../../core/frame/preparation";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import type { Frame } from "../../../store/records";
import { Button } from "../../../ui/Button";
import { NumberSlider } from "../../../ui/NumberSlider";
import { signed } from "../../../ui/format";
import type { Edit } from "../../state/edit";

interface Props {
  recipe: Recipe;
  edit: Edit;
  frames: readonly Frame[];
  /** the frame that is looked at, by its place */
  at: number | undefined;
  onFrame: (i: number) => void;
  /** ids of the frames that stand in one row of a panorama with the one at a place */
  rowOf: (i: number) => readonly string[];
}

/**
 * What one frame has in place of what all have: for the frame that is looked at, else the list of
 * those that have something.
 */
export function FrameExceptions({ recipe: r, edit, frames, at, onFrame, rowOf }: Props) {
  const { exceptions } = r.prepare;
  const mates = at === undefined ? [] : rowOf(at).filter((id) => id !== frames[at]?.id);
  const frame = at === undefined ? undefined : frames[at];
  const nameOf = (f: Frame): string => frameName(f.info.name);
  if (!frame)
    return (
      <>
        <h2 className="mt-2 border-t border-line pt-2 text-quiet">Settings of single frames</h2>
        {frames.flatMap((f, i) => {
          const own = exceptions.find((e) => isAbout(e, f));
          return own
            ? [
                <button
                  key={f.id}
                  type="button"
                  className="flex w-full gap-2 rounded text-left text-[12px] hover:underline"
                  onClick={() => onFrame(i)}
                >
                  <span>{nameOf(f)}</span>
                  <span className="truncate text-quiet">{inWords(own)}</span>
                </button>,
              ]
            : [];
        })}
        <p className="text-[12px] text-quiet">
          Click a frame in the ladder to give it its own white balance, vignetting or noise
          reduction.
        </p>
      </>
    );
  const own = exceptions.find((e) => isAbout(e, frame));
  const name = nameOf(frame);
  /**
   * The recipe in which this frame has a value of its own; what equals that of all is no exception.
   */
  const having = (key: ExceptionKey, value: FrameException[ExceptionKey]): Recipe => {
    const next = { ...own, frame: frame.id, [key]: value } as FrameException;
    if (JSON.stringify(value) === JSON.stringify(r.prepare[key])) delete next[key];
    return {
      ...r,
      prepare: {
        ...r.prepare,
        exceptions: [
          ...exceptions.filter((e) => e !== own),
          ...(Object.keys(next).length > 1 ? [next] : []),
        ],
      },
    };
  };
  const toRow = (): void => {
    if (!own) return;
    const others = frames.filter((f) => mates.includes(f.id));
    const kept = exceptions.filter((e) => !others.some((f) => isAbout(e, f)));
    edit.keep(
      {
        ...r,
        prepare: {
          ...r.prepare,
          exceptions: [...kept, ...others.map((f) => ({ ...own, frame: f.id }))],
        },
      },
      `${name} copied to its row`,
    );
  };
  const slide = (key: "temperature" | "tint" | "vignetting" | "noise", what: string) => ({
    name: `${what} of ${name}`,
    value: own?.[key] ?? r.prepare[key],
    reset: r.prepare[key],
    onChange: (v: number) => edit.show(having(key, v)),
    onCommit: (v: number) => edit.keep(having(key, v), `${what} of ${name}`),
  });
  const hundredths = {
    shown: (v: number) => String(Math.round(v * 100)),
    parse: (n: number) => n / 100,
  };
  return (
    <section aria-label={`Only ${name}`}>
      <h2 className="mt-2 border-t border-line pt-2">Only {name}</h2>
      <NumberSlider
        label="Temperature"
        hint="For a frame taken in different light, or with flash. Applied before the frames are merged."
        unit="K"
        min={2000}
        max={15000}
        step={50}
        {...slide("temperature", "Temperature")}
      />
      <NumberSlider
        label="Tint"
        hint="Green to magenta of this frame."
        unit=""
        min={-100}
        max={100}
        step={1}
        {...slide("tint", "Tint")}
      />
      <NumberSlider
        label="Vignetting"
        hint="Light lost in this frame's corners, where its aperture was different."
        unit="%"
        min={0}
        max={0.7}
        step={0.01}
        {...hundredths}
        {...slide("vignetting", "Vignetting")}
      />
      <NumberSlider
        label="Noise"
        hint="Smooths the noise of this frame alone."
        unit="%"
        min={0}
        max={1}
        step={0.05}
        {...hundredths}
        {...slide("noise", "Noise")}
      />
      {r.prepare.dust.length > 0 && (
        <label className="mt-1 flex items-center gap-2">
          <Checkbox
            checked={!own?.dust}
            onChange={(on) =>
              edit.keep(
                having("dust", on ? r.prepare.dust : []),
                on ? `Dust healed in ${name}` : `No dust in ${name}`,
              )
            }
          />
          Dust is healed in it
        </label>
      )}
      {own && (
        <div className="mt-1 flex gap-1">
          {mates.length > 0 && (
            <Button
              className="px-2"
              onClick={toRow}
              hint={`Gives what this frame has to the ${mates.length} others of its row`}
            >
              To its row
            </Button>
          )}
          <Button
            className="px-2"
            onClick={() =>
              edit.keep(
                {
                  ...r,
                  prepare: { ...r.prepare, exceptions: exceptions.filter((e) => e !== own) },
                },
                `${name} as the others`,
              )
            }
            hint="Resets this frame's own settings"
          >
            As the others
          </Button>
        </div>
      )}
    </section>
  );
}

/** What a frame has of its own, in words. */
function inWords(e: FrameException): string {
  const percent = (v: number): string => `${Math.round(v * 100)} %`;
  return [
    e.temperature !== undefined || e.tint !== undefined
      ? `white${e.temperature === undefined ? "" : ` ${e.temperature} K`}${e.tint === undefined ? "" : `, tint ${signed(e.tint, 0)}`}`
      : "",
    e.vignetting !== undefined ? `corners ${percent(e.vignetting)}` : "",
    e.noise !== undefined ? `noise ${percent(e.noise)}` : "",
    e.dust?.length === 0 ? "dust left" : "",
    e.distortion !== undefined || e.fringeRed !== undefined || e.fringeBlue !== undefined
      ? "lens"
      : "",
  ]
    .filter(Boolean)
    .join(", ");
}
