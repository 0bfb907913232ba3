import { useState } from "react";
import { useStore } from "zustand";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";
import { ProgressBar } from "../ui/ProgressBar";
import { roughly } from "../ui/roughly";
import { useKeys } from "../ui/useKeys";
import { handOver } from "../work/handOver";
import { forgetDone, isUnderWay, pause, stopAll, tray, tryAllAgain, type Job } from "../work/jobs";
import { JobList } from "./JobList";
import { shareDone, timeLeft } from "./timeLeft";
import { trayAsText } from "./trayText";

/** The whole tray below a screen: how far all of it is, and each job where the list is opened. */
export function TrayBar() {
  const { jobs, paused } = useStore(tray);
  const [isOpen, setOpen] = useState(false);
  const isBusy = jobs.some(isUnderWay);
  useKeys({ p: () => isBusy && pause(!paused) });
  if (!jobs.length) return null;
  const failed = jobs.filter((job) => job.state === "failed").length;
  const left = isBusy ? timeLeft(jobs, Date.now()) : undefined;
  return (
    <section aria-label="Tray" className="shrink-0 border-t border-line bg-panel">
      {isOpen && (
        <div className="max-h-[40vh] overflow-auto px-4 pt-3">
          <JobList jobs={jobs} />
        </div>
      )}
      <div className="flex h-11 items-center gap-3 px-4">
        <span className="shrink-0 whitespace-nowrap tabular-nums">{doneSaid(jobs)}</span>
        <ProgressBar name="All jobs" share={shareDone(jobs)} />
        <span className="shrink-0 whitespace-nowrap text-quiet">
          {left === undefined ? "" : `${roughly(left).join(" ")} left`}
        </span>
        {isBusy && (
          <>
            <Button
              aria-pressed={paused}
              onClick={() => pause(!paused)}
              hint="Finishes the running job and pauses the others (P)"
            >
              {paused ? "Go on" : "Pause"}
            </Button>
            <Button onClick={stopAll} hint="What is made stays; what is half done is dropped">
              Stop all
            </Button>
          </>
        )}
        {failed > 0 && (
          <Button onClick={tryAllAgain}>Try {counted(failed, "failed one")} again</Button>
        )}
        <Button aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          List
        </Button>
        <Button
          hint="What was made, what failed and why, as text"
          onClick={() =>
            handOver({ name: "deliveries.txt", content: new Blob([trayAsText(jobs)]) })
          }
        >
          Save the list
        </Button>
        {!isBusy && (
          <Button variant="plain" onClick={forgetDone}>
            Clear
          </Button>
        )}
      </div>
    </section>
  );
}

/** How many files are made, or jobs where these make none. */
function doneSaid(jobs: readonly Job[]): string {
  const files = jobs.flatMap((job) => job.files ?? []);
  const made = files.filter(({ state }) => state === "done").length;
  if (files.length) return `${made} of ${counted(files.length, "file")} done`;
  return `${jobs.filter((job) => !isUnderWay(job)).length} of ${counted(jobs.length, "job")} done`;
}
