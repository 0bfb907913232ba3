import { DndContext, useDraggable, useDroppable, type DragEndEvent } from "@dnd-kit/core";
import type { KeyboardEvent } from "react";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";
import { ProgressBar } from "../ui/ProgressBar";
import { roughly } from "../ui/roughly";
import { useDragSensors } from "../ui/useDragSensors";
import { forget, isUnderWay, moveBefore, moveJob, tryAgain, type Job } from "../work/jobs";
import { jobTimeLeft } from "./timeLeft";
import { outcomeOf } from "./trayText";

/** The jobs in the order in which they are done; those that wait are dragged, or moved by keys. */
export function JobList({ jobs }: { jobs: readonly Job[] }) {
  const sensors = useDragSensors();
  const drop = ({ active, over }: DragEndEvent): void => {
    if (over) moveBefore(Number(active.id), Number(over.id));
  };
  return (
    <DndContext sensors={sensors} onDragEnd={drop}>
      <ul aria-label="Jobs" className="flex flex-col gap-1">
        {jobs.map((job) => (
          <JobRow key={job.id} job={job} />
        ))}
      </ul>
    </DndContext>
  );
}

function JobRow({ job }: { job: Job }) {
  const isWaiting = job.state === "waiting";
  const drag = useDraggable({ id: job.id, disabled: !isWaiting });
  const { setNodeRef, isOver } = useDroppable({ id: job.id, disabled: !isWaiting });
  const { transform } = drag;
  const move = (e: KeyboardEvent): void => {
    if (!e.altKey || (e.key !== "ArrowUp" && e.key !== "ArrowDown")) return;
    e.preventDefault();
    moveJob(job.id, e.key === "ArrowUp" ? -1 : 1);
  };
  return (
    <li
      ref={setNodeRef}
      onKeyDown={isWaiting ? move : undefined}
      className={`rounded border-t-2 px-1 py-1 ${isOver ? "border-accent" : "border-transparent"}`}
      style={transform ? { transform: `translateY(${transform.y}px)`, opacity: 0.8 } : undefined}
    >
      <div className="flex items-center gap-2">
        {isWaiting && (
          <button
            type="button"
            ref={drag.setNodeRef}
            {...drag.listeners}
            aria-label={`Move ${job.title}`}
            title="Drag it, or press Alt with the arrow keys, to change the order"
            className="grid size-6 shrink-0 cursor-grab touch-none place-items-center rounded text-quiet hover:text-ink pointer-coarse:size-10"
          >
            <svg aria-hidden viewBox="0 0 12 12" className="size-3 stroke-current">
              <path d="M2 3.5h8M2 6h8M2 8.5h8" />
            </svg>
          </button>
        )}
        <span className="min-w-0 grow truncate" title={job.title}>
          {job.title}
        </span>
        <JobButtons job={job} />
      </div>
      {job.state === "running" && <ProgressBar name={job.title} share={job.share} />}
      <p className="text-[12px] text-quiet">{stateText(job)}</p>
    </li>
  );
}

function JobButtons({ job }: { job: Job }) {
  if (isUnderWay(job))
    return (
      <Button variant="plain" onClick={job.stop}>
        Stop
      </Button>
    );
  return (
    <>
      {job.state === "failed" && (
        <Button variant="plain" onClick={() => tryAgain(job.id)}>
          Again
        </Button>
      )}
      <Button variant="plain" onClick={() => forget(job.id)}>
        Clear
      </Button>
    </>
  );
}

/** What a job does, how far its files are and how long it still takes, or what became of it. */
function stateText(job: Job): string {
  const files = job.files ?? [];
  const made = files.filter(({ state }) => state === "done").length;
  const ms = isUnderWay(job) ? jobTimeLeft(job, Date.now()) : undefined;
  return [
    outcomeOf(job),
    ...(isUnderWay(job) && files.length > 1 ? [`${made} of ${counted(files.length, "file")}`] : []),
    ...(ms ? [`about ${roughly(ms).join(" ")}${job.state === "running" ? " left" : ""}`] : []),
  ].join(", ");
}
