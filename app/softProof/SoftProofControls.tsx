import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import type { SoftProofIntent } from "../../codecs/softProof";
import { RhizomeError } from "../../core/error";
import { dropProfile, keepProfile, readProfiles, type KeptProfile } from "../store/profiles";
import { Button } from "../ui/Button";
import { Checkbox } from "../ui/Checkbox";
import { Choice } from "../ui/Choice";
import { Menu } from "../ui/Menu";
import { plainNumber } from "../ui/format";
import { chooseProof, chosenProof } from "./chosenProof";

const SCREEN = "screen";
const OTHER = "other";

interface Props {
  /** share of what is seen that the paper cannot show, 0 to 1 */
  outside: number | undefined;
  onProblem: (problem: string) => void;
}

/** On which paper the picture is seen, by the profile that its maker gives out. */
export function SoftProofControls({ outside, onProblem }: Props) {
  const { profile, isOn } = useStore(chosenProof);
  const { profiles, read } = useProfiles();
  const field = useRef<HTMLInputElement>(null);
  const say = (e: unknown): void => onProblem(RhizomeError.from(e).sentence);
  const bringIn = (file: File | undefined): void => {
    if (!file) return;
    keepProfile(file).then(({ id }) => {
      read();
      chooseProof({ profile: id, isOn: true });
    }, say);
  };
  const forget = (id: string): void => {
    chooseProof({ profile: undefined, isOn: false });
    dropProfile(id).then(read, say);
  };
  const isKept = profiles.some(({ id }) => id === profile);
  return (
    <section aria-label="Soft proof" className="mt-2 border-t border-line pt-2">
      <Menu
        label="Seen as on"
        hint="The picture as a paper shows it, by an ICC profile of the paper (Shift C)"
        value={isOn && isKept ? profile! : SCREEN}
        options={[
          { value: SCREEN, text: "Screen" },
          ...profiles.map(({ id, name }) => ({ value: id, text: name })),
          { value: OTHER, text: "Another paper…" },
        ]}
        onChange={(to) => {
          if (to === OTHER) field.current!.click();
          else if (to === SCREEN) chooseProof({ isOn: false });
          else chooseProof({ profile: to, isOn: true });
        }}
      />
      <input
        ref={field}
        type="file"
        accept=".icc,.icm"
        aria-label="A paper's profile"
        className="hidden"
        onChange={(e) => {
          bringIn(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      {isOn && isKept && <OnPaper outside={outside} onForget={() => forget(profile!)} />}
    </section>
  );
}

/** How the picture is brought onto the paper, and what of it is lost there. */
function OnPaper({ outside, onForget }: Pick<Props, "outside"> & { onForget: () => void }) {
  const { intent, isMarked } = useStore(chosenProof);
  return (
    <>
      <Choice<SoftProofIntent>
        label="Intent"
        hint="Relative: what the paper can show stays as it is, with black as black. Perceptual: all colours give way together."
        value={intent}
        options={[
          { value: "relative", text: "Relative" },
          { value: "perceptual", text: "Perceptual" },
        ]}
        onChange={(to) => chooseProof({ intent: to })}
      />
      <label className="flex h-7 items-center gap-2 pl-2.5">
        <Checkbox checked={isMarked} onChange={(to) => chooseProof({ isMarked: to })} />
        Mark what the paper cannot show
      </label>
      <div className="flex items-center pl-2.5 text-[12px]">
        <p aria-label="Outside the paper's colours" className="grow text-quiet">
          {outside === undefined
            ? "Measuring the paper"
            : `${plainNumber(outside * 100, 1)} % of what is seen`}
        </p>
        <Button
          variant="plain"
          className="h-6 px-2"
          hint="Takes the profile off the list"
          onClick={onForget}
        >
          Forget this paper
        </Button>
      </div>
    </>
  );
}

/** The profiles that are kept, and how they are read again. */
function useProfiles(): { profiles: KeptProfile[]; read: () => void } {
  const [profiles, setProfiles] = useState<KeptProfile[]>([]);
  const [times, setTimes] = useState(0);
  useEffect(() => {
    let live = true;
    // without them the screen alone is offered
    void readProfiles().then(
      (kept) => live && setProfiles(kept),
      () => undefined,
    );
    return () => {
      live = false;
    };
  }, [times]);
  return { profiles, read: () => setTimes((n) => n + 1) };
}
