import { useEffect, useState } from "react";
import { useBlocker } from "react-router";
import { isUnderWay, tray } from "../work/jobs";
import { Button } from "../ui/Button";
import { fetchAllScreens, fetchScreen, moduleToFetch } from "./screens";
import { takeVersion, watchUpdates } from "./update";

/** What is said over the screen of the application itself: a newer version, a screen out of reach. */
export function Offline() {
  const [waiting, setWaiting] = useState<ServiceWorker>();
  useEffect(() => watchUpdates(setWaiting), []);
  useEffect(() => {
    const idle = globalThis.requestIdleCallback ?? ((work: () => void) => setTimeout(work, 1000));
    idle(() => void fetchAllScreens());
  }, []);
  const { isOutOfReach, close } = useScreensInReach();
  if (isOutOfReach)
    return (
      <Notice text="This screen cannot be fetched: Rhizome's server does not answer. What is open here stays and goes on. Start the server, then try again.">
        <Button onClick={close}>Close</Button>
      </Notice>
    );
  if (waiting)
    return (
      <Notice text={updateSaid()}>
        <Button onClick={() => setWaiting(undefined)}>Later</Button>
        <Button variant="accent" onClick={() => takeVersion(waiting)}>
          Use it now
        </Button>
      </Notice>
    );
  return null;
}

function updateSaid(): string {
  const isBusy = tray.getState().jobs.some(isUnderWay);
  return isBusy
    ? "A newer Rhizome is ready. The page opens anew for it; deliveries in the tray begin again."
    : "A newer Rhizome is ready. The page opens anew for it.";
}

/** Keeps the page where it is while the next screen cannot be fetched. */
function useScreensInReach(): { isOutOfReach: boolean; close: () => void } {
  const [isOutOfReach, setOutOfReach] = useState(false);
  const blocker = useBlocker(
    ({ nextLocation }) => moduleToFetch(nextLocation.pathname) !== undefined,
  );
  useEffect(() => {
    if (blocker.state !== "blocked") return;
    const module = moduleToFetch(blocker.location.pathname);
    const arrived = module === undefined ? Promise.resolve(true) : fetchScreen(module);
    void arrived.then((isThere) => {
      setOutOfReach(!isThere);
      if (isThere) blocker.proceed();
      else blocker.reset();
    });
  }, [blocker]);
  return { isOutOfReach, close: () => setOutOfReach(false) };
}

function Notice({ text, children }: { text: string; children: React.ReactNode }) {
  return (
    <div
      role="region"
      aria-label="About Rhizome itself"
      aria-live="polite"
      className="fixed bottom-4 left-1/2 z-50 flex max-w-2xl -translate-x-1/2 items-center gap-3 rounded border border-line bg-raised px-4 py-2 shadow-lg"
    >
      <p>{text}</p>
      {children}
    </div>
  );
}
