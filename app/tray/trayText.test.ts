import { RhizomeError } from "../../core/error";
import type { Job } from "../work/jobs";
import { outcomeOf, trayAsText } from "./trayText";

const job = (part: Partial<Job>): Job => ({
  id: 1,
  title: "Deliver a",
  kind: "delivery",
  share: 1,
  doing: "Done",
  state: "done",
  startedAt: 0,
  stop: () => undefined,
  ...part,
});

test("the list names every job, every file that is made, and why one failed", () => {
  const failed = job({
    state: "failed",
    title: "Deliver b",
    error: new RhizomeError("damaged", "b.jpg is damaged.", "copy it again"),
  });
  const made = job({
    files: [
      { delivery: "", name: "a.jpg", state: "done", bytes: 12 },
      { delivery: "Web", name: "a-web.jpg", state: "waiting" },
    ],
  });
  expect(trayAsText([made, failed])).toBe(
    "done\tDeliver a\n\ta.jpg\t12 bytes\nfailed\tDeliver b\tb.jpg is damaged. What to do: copy it again.\n",
  );
  expect(outcomeOf(failed)).toContain("copy it again");
  expect(outcomeOf(job({ note: "2 files" }))).toBe("Done: 2 files");
});
