import { RhizomeError } from "../../core/error";
import { readJob } from "../batch/job";
import { errorOf, readDone, readQueued, reasonOf } from "./queuedJob";

test.each([
  new RhizomeError("unwritable", "/a/b.jpg cannot be written: ENOSPC.", "check the free space"),
  new RhizomeError("damaged", "x (1).jpg is cut.", ""),
  new RhizomeError("no-overlap", "a\nb", "leave (one) out"),
])("an error comes back from the queue as it went in: $code", (error) => {
  const back = errorOf(reasonOf(error));
  expect(back.code).toBe(error.code);
  expect(`${back.message} ${back.remedy}`).toContain(error.message);
});

test("what the queue says by itself is kept as it is", () => {
  expect(errorOf("Missing lock for job 1")).toMatchObject({
    code: "internal",
    message: "Missing lock for job 1",
  });
});

test.each([undefined, null, 3, {}, { id: 1, job: {} }, { id: "a", begunAlone: "often" }])(
  "data that is no job is refused: %j",
  (data) => {
    expect(() => readQueued(data)).toThrow("cannot be read");
    expect(() => readDone(data)).toThrow("cannot be read");
    expect(() => readJob(data)).toThrow("cannot be read");
  },
);
