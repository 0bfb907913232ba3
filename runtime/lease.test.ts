import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";
import { leaseOf, traceLeases } from "./lease";

test("a lease frees once, by its owner or at the end of a block", () => {
  let freed = 0;
  const lease = leaseOf(() => freed++);
  lease.release();
  lease.release();
  expect(freed).toBe(1);
  {
    using second = { ...leaseOf(() => freed++), other: "parts" };
    expect([second.other, freed]).toEqual(["parts", 1]);
  }
  expect(freed).toBe(2);
});

test("where leases are traced, one that was forgotten says where it was taken; others say nothing", async () => {
  setFlagsFromString("--expose-gc");
  const collect = runInNewContext("gc") as () => void;
  const told: string[] = [];
  traceLeases((takenAt) => told.push(takenAt));
  function takeAndForget(): void {
    leaseOf(() => undefined);
  }
  function takeAndRelease(): void {
    leaseOf(() => undefined).release();
  }
  takeAndForget();
  takeAndRelease();
  while (!told.length) {
    await new Promise((later) => setTimeout(later, 5));
    collect();
  }
  expect(told.join("\n")).toContain("takeAndForget");
  expect(told.join("\n")).not.toContain("takeAndRelease");
});
