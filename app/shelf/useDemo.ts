import { useEffect, useRef, useState } from "react";
import { RhizomeError } from "../../core/error";
import { demoDone, demoShoot, fetchDemo } from "../store/demo";
import type { BringIn } from "./useBringIn";

/**
 * Brings in the demo shoot; by itself at the first visit.
 *
 * @param isWanted  it was never in this browser
 */
export function useDemo(work: BringIn, isWanted: boolean) {
  const [share, setShare] = useState<number>();
  const [error, setError] = useState<RhizomeError>();
  const started = useRef(false);
  const bring = async (): Promise<void> => {
    setError(undefined);
    try {
      setShare(0);
      const { name, files } = await fetchDemo(setShare);
      const into = await demoShoot();
      const done = await work.start(files, { name, into, isSample: true });
      if (done && !done.failed.length && !done.notKept.length) {
        await demoDone();
        work.clear();
      }
    } catch (e) {
      setError(RhizomeError.from(e));
    }
    setShare(undefined);
  };
  useEffect(() => {
    if (isWanted && !started.current) {
      started.current = true;
      void bring();
    }
  });
  return { share, error, bring };
}
