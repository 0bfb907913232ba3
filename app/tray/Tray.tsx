import { Popover } from "radix-ui";
import { Link } from "react-router";
import { useStore } from "zustand";
import { Button } from "../ui/Button";
import { roughly } from "../ui/roughly";
import { forgetDone, isUnderWay, pause, tray, tryAllAgain, type Tray as Jobs } from "../work/jobs";
import { JobList } from "./JobList";
import { timeLeft } from "./timeLeft";

/** The tray in a few words, as it stands in the top bar. */
function trayWord({ jobs, paused }: Jobs): string {
  const underWay = jobs.filter(isUnderWay);
  const failed = jobs.filter((j) => j.state === "failed").length;
  const [current] = underWay;
  if (!current) return failed ? `${failed} failed` : `${jobs.length} done`;
  const doing = current.kind === "delivery" ? "Delivering" : "Merging";
  const isPaused = current.state === "waiting" && paused;
  const more = underWay.length > 1 ? `, ${underWay.length - 1} more` : "";
  return `${isPaused ? "Paused" : `${doing} ${Math.round(current.share * 100)} %`}${more}`;
}

/** The running and waiting jobs, from every screen; nothing where there are none. */
export function Tray() {
  const all = useStore(tray);
  const { jobs } = all;
  const current = jobs.find(isUnderWay);
  if (!jobs.length) return null;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`Tray: ${trayWord(all)}`}
          title={current ? `${current.title}: ${current.doing}` : undefined}
          className="h-7 shrink-0 whitespace-nowrap rounded px-2 tabular-nums text-quiet hover:bg-raised hover:text-ink"
        >
          {trayWord(all)}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 max-h-[70vh] w-96 overflow-auto rounded border border-line bg-panel p-3 shadow-lg"
        >
          <TrayHead {...all} />
          <JobList jobs={jobs} />
          <Link to="/deliver" className="mt-2 inline-block rounded text-quiet hover:text-ink">
            To all deliveries
          </Link>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function TrayHead({ jobs, paused }: Jobs) {
  const isBusy = jobs.some(isUnderWay);
  const failed = jobs.filter((j) => j.state === "failed").length;
  const left = timeLeft(jobs, Date.now());
  return (
    <div className="mb-2 flex items-center gap-2">
      <h2 className="font-semibold">Tray</h2>
      <span className="min-w-0 grow truncate text-[12px] text-quiet">
        {left ? `about ${roughly(left).join(" ")} left` : ""}
      </span>
      {isBusy && (
        <Button
          variant="plain"
          aria-pressed={paused}
          onClick={() => pause(!paused)}
          hint="Finishes the running job and pauses the others"
        >
          {paused ? "Go on" : "Pause"}
        </Button>
      )}
      {failed > 1 && (
        <Button variant="plain" onClick={tryAllAgain}>
          All again
        </Button>
      )}
      {jobs.some((j) => !isUnderWay(j)) && (
        <Button variant="plain" onClick={forgetDone}>
          Clear ended
        </Button>
      )}
    </div>
  );
}
