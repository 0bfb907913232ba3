import { useEffect, useState } from "react";
import { helpAddress } from "../../help/address";
import { Button } from "../../ui/Button";
import { useSession } from "../state/workspace";

const SEEN = "rhizome:evidence-explained";
const wasSeen = (): boolean => {
  try {
    return localStorage.getItem(SEEN) !== null;
  } catch {
    // a browser that keeps nothing would explain it each time
    return true;
  }
};

/** Says once, beside the first merge, what the numbers and lists around it are. */
export function FirstTime() {
  const isReady = useSession((s) => s.phase === "ready");
  const [isOver, setOver] = useState(wasSeen);
  // once it is there it stays while stacks are merged anew, so that nothing below it jumps
  const [hasMerged, setMerged] = useState(false);
  useEffect(() => {
    if (isReady) setMerged(true);
  }, [isReady]);
  if (isOver || !hasMerged) return null;
  const close = (): void => {
    localStorage.setItem(SEEN, "yes");
    setOver(true);
  };
  return (
    <section aria-label="What stands here" className="mb-4 rounded border border-accent p-3">
      <p className="font-semibold">This is the evidence of your first merge.</p>
      <ul className="mt-1 list-disc pl-4 text-[12px]">
        <li>Ladder: the frames, and what each of them saw.</li>
        <li>Maps: which frame gave which pixel, and more, over the picture.</li>
        <li>Proof: what is clipped, how noisy, how far frames moved.</li>
        <li>Suspects: places to look at, worst first; the full stop key goes through them.</li>
      </ul>
      <div className="mt-2 flex items-center gap-3">
        <Button onClick={close}>Close</Button>
        <a
          className="text-[12px] underline"
          href={helpAddress("merge", "What the proof says")}
          target="_blank"
          rel="noreferrer"
        >
          More about it
        </a>
      </div>
    </section>
  );
}
