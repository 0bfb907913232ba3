import { ProgressBar } from "../ui/ProgressBar";
import { Select } from "../ui/Select";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { RhizomeError } from "../../core/error";
import {
  planBracket,
  planRun,
  planSweep,
  type CameraSettings,
  type PlannedShot,
} from "../../simulate/programme";
import { Controls } from "../camera/Controls";
import { Expected } from "../camera/Expected";
import { Finder } from "../camera/Finder";
import { readSettings, writeSettings } from "../camera/settings";
import { useBringIn } from "../shelf/useBringIn";
import { demoManifest } from "../store/demo";
import { listShelf } from "../store/shelf";
import { Button } from "../ui/Button";
import { counted, shutter } from "../ui/format";
import { TopBar } from "../ui/TopBar";
import { useKeys } from "../ui/useKeys";
import { StandIn } from "../work/standIn";
import type { Route } from "./+types/camera";

export async function clientLoader() {
  const [{ scenes }, shelf] = await Promise.all([demoManifest(), listShelf()]);
  return {
    scenes,
    shoots: shelf.map(({ shoot, frames }) => ({ id: shoot.id, name: shoot.name, frames })),
  };
}

/** No shoot that is there: frames go into a new one. */
const NEW_SHOOT = "new";

/** The stand-in camera: takes brackets, sweeps and focus runs of the demo's scenes into a shoot. */
export default function Camera({ loaderData: { scenes, shoots } }: Route.ComponentProps) {
  const [params, setParams] = useSearchParams();
  const { scene, settings } = readSettings(params, scenes);
  const change = (s: CameraSettings): void => setParams(writeSettings(s), { replace: true });
  const [camera, setCamera] = useState<StandIn>();
  const [opening, setOpening] = useState({ share: 0, doing: "Fetching the scene" });
  const [error, setError] = useState<RhizomeError>();
  const [again, setAgain] = useState(0);
  useEffect(() => {
    const stopper = new AbortController();
    let own: StandIn | undefined;
    setCamera(undefined);
    setError(undefined);
    StandIn.open(scene, (share, doing) => setOpening({ share, doing }), stopper.signal).then(
      (c) => {
        if (stopper.signal.aborted) c.close();
        else setCamera((own = c));
      },
      (e: unknown) => {
        if (!stopper.signal.aborted) setError(RhizomeError.from(e));
      },
    );
    return () => {
      stopper.abort();
      own?.close();
    };
  }, [scene, again]);
  const shots = useMemo(
    (): PlannedShot[] => {
      if (!camera) return [];
      if (camera.reach) return planSweep(settings, camera.reach).shots;
      if (camera.travel) return planRun(settings, camera.travel).shots;
      return planBracket(settings);
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [camera, JSON.stringify(settings)],
  );
  const work = useBringIn();
  const [into, setInto] = useState("");
  /** frames of those that were to be taken when it began */
  const [taken, setTaken] = useState<{ done: number; all: number }>();
  const stopper = useRef<AbortController>(undefined);
  const [filled, setFilled] = useState<{ shoot: string; frames: number }>();
  const taking = taken !== undefined;
  const target = shoots.find((s) => s.id === into);
  const take = async (): Promise<void> => {
    if (!camera || taking || !shots.length) return;
    const own = (stopper.current = new AbortController());
    const first = (target?.frames ?? 0) + 1;
    const all = shots.length;
    setTaken({ done: 0, all });
    setFilled(undefined);
    setError(undefined);
    let count = 0;
    const frames = async function* (): AsyncGenerator<File> {
      for await (const f of camera.take(shots, settings, first, own.signal)) {
        yield f;
        setTaken({ done: ++count, all });
      }
    };
    const done = await work.follow(
      frames(),
      `Stand-in: ${scene.title.split(",")[0]!.toLowerCase()}`,
      target?.id,
    );
    if (done?.shootId) {
      setFilled({ shoot: done.shootId, frames: count });
      setInto(done.shootId);
    }
    if (done?.failed[0]) setError(done.failed[0]);
    setTaken(undefined);
  };
  const stop = (): void => stopper.current?.abort();
  useEffect(() => () => stopper.current?.abort(), []);
  useKeys({ t: () => void take(), Escape: stop });
  return (
    <div className="flex h-full flex-col">
      <TopBar
        path={[{ text: "Shoots", to: "/shoots" }, { text: "Stand-in camera" }]}
        screen="camera"
      />
      <div className="grid min-h-0 grow grid-cols-[320px_1fr_236px]">
        <aside
          aria-label="Settings"
          className="flex flex-col overflow-auto border-r border-line bg-panel p-4"
        >
          <fieldset
            disabled={taking}
            className={`min-w-0 grow ${taking ? "pointer-events-none opacity-60" : ""}`}
          >
            <Controls
              scenes={scenes}
              scene={scene}
              settings={settings}
              onChange={change}
              onScene={(id) => setParams({ scene: id }, { replace: true })}
            />
          </fieldset>
          <div className="mt-4 flex flex-col gap-2 border-t border-line pt-3">
            <label className="grid grid-cols-[84px_1fr] items-center gap-2">
              <span className="text-quiet">Into</span>
              <Select
                name="Into"
                disabled={taking}
                value={target ? into : NEW_SHOOT}
                options={[
                  { value: NEW_SHOOT, text: "A new shoot" },
                  ...shoots.map(({ id, name }) => ({ value: id, text: name })),
                ]}
                onChange={(to) => setInto(to === NEW_SHOOT ? "" : to)}
              />
            </label>
            {taking ? (
              <Button onClick={stop} hint="What was taken stays in the shoot (Escape)">
                Stop
              </Button>
            ) : (
              <Button
                variant="accent"
                disabled={!camera}
                onClick={() => void take()}
                hint="Takes the frames one after another into the shoot (T)"
              >
                {shots.length === 1 ? "Take 1 frame" : `Take ${shots.length || ""} frames`}
              </Button>
            )}
          </div>
        </aside>
        <main className="flex min-w-0 flex-col bg-well">
          <div className="min-h-0 grow">
            {camera ? (
              <Finder camera={camera} settings={settings} shots={shots} taken={taken?.done ?? 0} />
            ) : (
              !error && (
                <div role="status" className="grid h-full place-items-center">
                  <div className="w-64">
                    <p className="mb-2 text-quiet">{opening.doing}</p>
                    <ProgressBar name={opening.doing} share={opening.share} />
                  </div>
                </div>
              )
            )}
          </div>
          {(error ?? work.error) && (
            <div
              role="alert"
              className="flex items-center gap-3 border-t border-line bg-panel px-3 py-2"
            >
              <p className="grow">
                {(error ?? work.error)!.message}{" "}
                <span className="text-quiet">What to do: {(error ?? work.error)!.remedy}.</span>
              </p>
              {!camera && <Button onClick={() => setAgain(again + 1)}>Again</Button>}
            </div>
          )}
          <div className="flex h-9 shrink-0 items-center gap-3 border-t border-line bg-panel px-3">
            {taking && (
              <>
                <span className="w-40 text-quiet">
                  Taking frames, {Math.min(taken.all, taken.done + 1)} of {taken.all}
                </span>
                <ProgressBar name="Taking frames" share={taken.done / taken.all} />
              </>
            )}
            {!taking && filled && (
              <>
                <span className="grow text-quiet">{counted(filled.frames, "frame")} taken</span>
                <Link
                  className="rounded px-2 text-accent hover:underline"
                  to={`/shoots/${filled.shoot}`}
                >
                  Open the board
                </Link>
              </>
            )}
            {!taking && !filled && (
              <span className="truncate text-quiet">
                {scene.title}; {settings.focal} mm, f/{scene.aperture}, ISO {settings.iso},{" "}
                {shutter(scene.time * (100 / settings.iso))} as metered,{" "}
                {settings.hand ? "hand-held" : "on a tripod"}
              </span>
            )}
          </div>
        </main>
        <aside
          aria-label="Expected"
          className="overflow-auto border-l border-line bg-panel px-3 py-3"
        >
          {camera && <Expected camera={camera} settings={settings} onChange={change} />}
        </aside>
      </div>
    </div>
  );
}
