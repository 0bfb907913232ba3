import type { Job } from "../work/jobs";
import { jobTimeLeft, shareDone, timeLeft } from "./timeLeft";

const job = (part: Partial<Job>): Job => ({
  id: 1,
  title: "Deliver a.jpg",
  kind: "delivery",
  share: 0,
  doing: "",
  state: "waiting",
  startedAt: 0,
  stop: () => undefined,
  ...part,
});

test("a job under way tells by how far it came, before that by what is expected of it", () => {
  expect(jobTimeLeft(job({ state: "running", share: 0.25, expectedMs: 99 }), 1000)).toBe(3000);
  expect(jobTimeLeft(job({ state: "running", share: 0.01, expectedMs: 5000 }), 1000)).toBe(4000);
  expect(jobTimeLeft(job({ state: "running", share: 0.01, expectedMs: 500 }), 1000)).toBe(0);
  expect(jobTimeLeft(job({ state: "running" }), 1000)).toBeUndefined();
  expect(jobTimeLeft(job({ state: "failed", expectedMs: 500 }), 1000)).toBe(0);
});

test("the whole takes what its jobs take, and unknown ones as long as the others", () => {
  expect(timeLeft([job({}), job({})], 0)).toBeUndefined();
  expect(timeLeft([job({ expectedMs: 1000 }), job({ expectedMs: 3000 })], 0)).toBe(4000);
  expect(timeLeft([job({ expectedMs: 1000 }), job({})], 0)).toBe(2000);
  expect(timeLeft([job({ state: "done", expectedMs: 9 }), job({ expectedMs: 7 })], 0)).toBe(7);
});

test("the share of the whole never falls as jobs go on, and ends at one", () => {
  const at = (share: number, state: Job["state"]): number =>
    shareDone([job({ expectedMs: 3000, share, state }), job({ expectedMs: 1000 })]);
  expect(at(0, "waiting")).toBe(0);
  expect(at(0.5, "running")).toBeCloseTo(0.375);
  expect(at(1, "done")).toBeCloseTo(0.75);
  expect(shareDone([job({ state: "done" }), job({ state: "failed" })])).toBe(1);
  expect(shareDone([])).toBe(0);
});
