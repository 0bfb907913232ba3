import type { FileLayout } from "../../pipeline/deliver/fileLayout";
import { inUnit, MM_PER_INCH, parsePaper } from "../../pipeline/deliver/paper";
import { beyondWhiteOf, type FileSettings } from "../../pipeline/deliver/settings";
import { Fact } from "../ui/Fact";
import { plainNumber } from "../ui/format";
import { roughly } from "../ui/roughly";
import { GOES_BEYOND_WHITE } from "../work/display";
import { expectedBytes, readWeights } from "../work/weight";

interface Props {
  layout: FileLayout;
  settings: FileSettings;
  /** what its delivery takes, asked only where it is shown */
  expected: (() => { bytes: number; ms: number }) | undefined;
}

/** What a file will be, and what making it takes, before it is made. */
export function OutputFacts({ layout, settings, expected: ask }: Props) {
  const { width, height } = layout.file;
  const expected = ask?.();
  const time = expected && roughly(expected.ms);
  const bytes = expectedBytes(settings, width * height, readWeights());
  return (
    <>
      <dl aria-label="The file" className="mt-2 grid grid-cols-[auto_1fr_28px] gap-x-2 gap-y-0.5">
        <Fact what="Size" value={`${width} × ${height}`} unit="px" />
        <Fact what="Pixels" value={plainNumber((width * height) / 1e6)} unit="MP" />
        <Fact what="Weighs about" value={plainNumber(bytes / 1e6)} unit="MB" />
        <PrintFacts layout={layout} settings={settings} />
        <Fact what="Takes about" value={time?.[0]} unit={time?.[1] ?? "s"} />
        <Fact
          what="Memory, at most"
          value={expected && plainNumber(expected.bytes / 2 ** 30)}
          unit="GiB"
        />
      </dl>
      {isTooSoft(layout, settings) && (
        <p className="mt-1 text-[12px]">{tooSoftSaid(layout, settings)}</p>
      )}
      {beyondWhiteOf(settings) !== "none" && (
        <p className="mt-1 text-[12px] text-quiet">{displaySaid()}</p>
      )}
    </>
  );
}

/** Whether this display could show what is brighter than white. */
const displaySaid = (): string =>
  globalThis.matchMedia(GOES_BEYOND_WHITE).matches
    ? "This display goes beyond white."
    : "This display does not go beyond white: the file carries it for those that do.";

/** How large it is in the hand. */
function PrintFacts({ layout, settings }: Pick<Props, "layout" | "settings">) {
  const { file, ppi, printed } = layout;
  const sheet = parsePaper(settings.paper);
  if (!sheet || !printed) {
    const inches = (by: number): string =>
      `${plainNumber((file.width / ppi) * by)} × ${plainNumber((file.height / ppi) * by)}`;
    return (
      <>
        <Fact what={`At ${ppi} ppi`} value={inches(MM_PER_INCH / 10)} unit="cm" />
        <Fact what="" value={inches(1)} unit="in" />
      </>
    );
  }
  const sides = (size: { width: number; height: number }): string =>
    `${plainNumber(inUnit(size.width, sheet))} × ${plainNumber(inUnit(size.height, sheet))}`;
  return (
    <>
      <Fact what="Paper" value={sides(layout.paper!)} unit={sheet.unit} />
      <Fact what="Picture on it" value={sides(printed)} unit={sheet.unit} />
      <Fact what="Resolution" value={String(ppi)} unit="ppi" />
    </>
  );
}

/** Whether a print has too few pixels an inch. */
export const isTooSoft = ({ paper, ppi }: FileLayout, { leastPpi }: FileSettings): boolean =>
  paper !== undefined && ppi < leastPpi;

/** What a print is short of, and what it would be large enough for. */
function tooSoftSaid({ printed, ppi }: FileLayout, { leastPpi, paper }: FileSettings): string {
  const sheet = parsePaper(paper)!;
  const side = (mm: number): string => plainNumber(inUnit((mm * ppi) / leastPpi, sheet), 0);
  return `Too soft for this paper: it has ${ppi} of ${leastPpi} ppi. A picture of ${side(printed!.width)} × ${side(printed!.height)} ${sheet.unit} would have them.`;
}
