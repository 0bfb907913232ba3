import { Select } from "../ui/Select";
import type { CameraSettings } from "../../simulate/programme";
import type { DemoScene } from "../store/demo";
import { Choice } from "../ui/Choice";
import { NumberSlider } from "../ui/NumberSlider";
import { ISOS, LENSES } from "./settings";

const MOVING: readonly { value: CameraSettings["moving"]; text: string }[] = [
  { value: "nothing", text: "Nothing" },
  { value: "a walking figure", text: "A walking figure" },
  { value: "rolling leaves", text: "Rolling leaves" },
  { value: "drifting cloud", text: "Drifting cloud" },
];
const PROGRAMMES = { bracket: "Bracket", panorama: "Sweep", focus: "Focus run" } as const;

interface Props {
  scenes: readonly DemoScene[];
  scene: DemoScene;
  settings: CameraSettings;
  onChange: (s: CameraSettings) => void;
  onScene: (id: string) => void;
}

const options = (values: readonly number[], text: (v: number) => string = String) =>
  values.map((v) => ({ value: String(v), text: text(v) }));

/**
 * What is set on the camera: the scene, the lens and the ISO, and the programme that the scene is
 * for.
 */
export function Controls({ scenes, scene, settings: s, onChange, onScene }: Props) {
  const set = (part: Partial<CameraSettings>): void => onChange({ ...s, ...part });
  const whole = { shown: (v: number) => String(Math.round(v)) };
  const percent = {
    shown: (v: number) => String(Math.round(v * 100)),
    parse: (n: number) => n / 100,
  };
  const slide = (key: "rows" | "overlap" | "near" | "far" | "gap" | "frames" | "step") => ({
    value: s[key],
    onChange: (v: number) =>
      set({ [key]: key === "overlap" || key === "step" ? v : Math.round(v) }),
    onCommit: (v: number) =>
      set({ [key]: key === "overlap" || key === "step" ? v : Math.round(v) }),
  });
  const last = scene.frames.length - 1;
  return (
    <div className="flex flex-col gap-4">
      <section aria-label="Scene">
        <h2 className="mb-1 font-semibold">Scene</h2>
        <Select
          name="Scene"
          className="w-full"
          value={scene.id}
          options={scenes.map(({ id, title }) => ({ value: id, text: title }))}
          onChange={onScene}
        />
      </section>
      <section aria-label="Camera">
        <h2 className="mb-1 font-semibold">Camera</h2>
        <Choice
          label="Lens"
          hint="Focal length in mm on a 36 mm wide frame."
          value={String(s.focal)}
          options={options(LENSES[scene.kind], (v) => `${v} mm`)}
          onChange={(v) => set({ focal: Number(v) })}
        />
        <Choice
          label="ISO"
          hint="Higher: shorter times, more noise."
          value={String(s.iso)}
          options={options(ISOS)}
          onChange={(v) => set({ iso: Number(v) })}
        />
        <Choice
          label="Camera"
          hint="Hand-held frames shift and roll a little."
          value={s.hand ? "hand" : "tripod"}
          options={[
            { value: "tripod", text: "Tripod" },
            { value: "hand", text: "Hand-held" },
          ]}
          onChange={(v) => set({ hand: v === "hand" })}
        />
        {scene.kind === "bracket" && (
          <label className="grid grid-cols-[84px_1fr] items-center gap-2 py-0.5">
            <span className="text-quiet">Moving</span>
            <Select
              name="Moving"
              value={s.moving}
              options={MOVING}
              onChange={(moving) => set({ moving })}
            />
          </label>
        )}
      </section>
      <section aria-label="Programme">
        <h2 className="mb-1 font-semibold">{PROGRAMMES[scene.kind]}</h2>
        {scene.kind === "panorama" && (
          <>
            <Choice
              label="Frames"
              hint="Portrait frames give more height."
              value={s.turned}
              options={[
                { value: "portrait", text: "Portrait" },
                { value: "landscape", text: "Landscape" },
              ]}
              onChange={(turned) => set({ turned })}
            />
            <NumberSlider
              label="Rows"
              hint="From the top down."
              unit=""
              min={1}
              max={3}
              step={1}
              reset={1}
              {...whole}
              {...slide("rows")}
            />
            <NumberSlider
              label="Overlap"
              hint="Overlap of neighbours; a third is usual."
              unit="%"
              min={0.1}
              max={0.7}
              step={0.05}
              reset={0.3}
              {...percent}
              {...slide("overlap")}
            />
            <Choice
              label="Each position"
              hint="One frame, or a bracket, at every position."
              value={s.frames > 1 ? "bracket" : "one"}
              options={[
                { value: "one", text: "One frame" },
                { value: "bracket", text: "Bracket" },
              ]}
              onChange={(v) => set({ frames: v === "bracket" ? 3 : 1 })}
            />
          </>
        )}
        {(scene.kind === "bracket" || (scene.kind === "panorama" && s.frames > 1)) && (
          <>
            <NumberSlider
              label="Exposures"
              hint="Frames of the bracket."
              unit=""
              min={scene.kind === "bracket" ? 1 : 2}
              max={9}
              step={1}
              reset={5}
              {...whole}
              {...slide("frames")}
            />
            <NumberSlider
              label="Step"
              hint="EV from one exposure to the next."
              unit="EV"
              min={0.5}
              max={3}
              step={0.5}
              reset={2}
              shown={(v) => v.toFixed(1)}
              {...slide("step")}
            />
          </>
        )}
        {scene.kind === "focus" && (
          <>
            <NumberSlider
              label="Near end"
              hint="Where focus begins, in steps of the lens."
              unit=""
              min={0}
              max={last}
              step={1}
              reset={0}
              {...whole}
              {...slide("near")}
            />
            <NumberSlider
              label="Far end"
              hint="Where focus ends, in steps of the lens."
              unit=""
              min={0}
              max={last}
              step={1}
              reset={last}
              {...whole}
              {...slide("far")}
            />
            <NumberSlider
              label="Step"
              hint="How far focus travels from frame to frame, in steps of the lens."
              unit=""
              min={1}
              max={8}
              step={1}
              reset={2}
              {...whole}
              {...slide("gap")}
            />
          </>
        )}
      </section>
    </div>
  );
}
