import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { Button } from "../ui/Button";
import { deliveryOf, tray as trayStore, type Tray } from "../work/jobs";

/** How long the button says that the file is saved, ms. */
const SAVED_MS = 4000;

/** What the tray does with a stack's delivery right now, in a word or two, and in a sentence. */
function stateOf(
  tray: Tray,
  stackId: string,
  label: string,
): { word: string; hint: string; busy: boolean } {
  const job = deliveryOf(tray, stackId);
  if (job?.state === "running")
    return {
      word: `Delivering ${Math.round(job.share * 100)} %`,
      hint: `${job.doing}. It can be stopped in the tray`,
      busy: true,
    };
  if (job?.state === "waiting") {
    const before = tray.jobs.find((j) => j.state === "running");
    return {
      word: tray.paused ? "Paused" : "Waiting",
      hint: tray.paused
        ? "The tray is paused: let it go on there"
        : `Next, after ${before?.title ?? "what is running"}`,
      busy: true,
    };
  }
  if (job?.state === "failed")
    return {
      word: "Deliver again",
      hint: job.error?.message ?? "The last delivery failed",
      busy: false,
    };
  return { word: label, hint: "Renders at full size and saves the file (D)", busy: false };
}

/** Delivers a stack, and says what becomes of it from the moment it is pressed. */
export function DeliverButton({
  stackId,
  label = "Deliver",
  onDeliver,
}: {
  stackId: string;
  /** when nothing is under way */
  label?: string;
  onDeliver: () => void;
}) {
  const tray = useStore(trayStore);
  const { word, hint, busy } = stateOf(tray, stackId, label);
  const saved = useSavedJust(deliveryOf(tray, stackId)?.state);
  return (
    <Button
      variant="accent"
      className="min-w-36 justify-center tabular-nums"
      aria-disabled={busy}
      onClick={busy ? undefined : onDeliver}
      hint={hint}
      data-testid="deliver"
    >
      <span aria-live="polite">{saved && !busy ? "Saved" : word}</span>
    </Button>
  );
}

/** True for a while after a delivery that was seen to run has ended well. */
function useSavedJust(state: string | undefined): boolean {
  const [seen, setSeen] = useState(state);
  const [saved, setSaved] = useState(false);
  if (seen !== state) {
    setSeen(state);
    if (seen === "running") setSaved(state === "done");
  }
  useEffect(() => {
    if (!saved) return;
    const timer = setTimeout(() => setSaved(false), SAVED_MS);
    return () => clearTimeout(timer);
  }, [saved]);
  return saved;
}
