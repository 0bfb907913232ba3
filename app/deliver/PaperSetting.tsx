import { NO_PAPER, parsePaper, USUAL_PAPERS } from "../../pipeline/deliver/paper";
import { fileSettings } from "../../pipeline/deliver/settings";
import { Menu } from "../ui/Menu";
import { TextField } from "../ui/TextField";

/** Where one's own paper begins. */
const FIRST_OWN = "50x70 cm";
const OWN = "own";

/** What the picture is printed on: none, a usual paper, or one's own by its sides. */
export function PaperSetting({
  value,
  onKeep,
}: {
  value: string;
  onKeep: (paper: string) => void;
}) {
  const isUsual = value === NO_PAPER || USUAL_PAPERS.includes(value);
  const { label, help } = fileSettings.fields.paper;
  return (
    <>
      <Menu
        label={label}
        hint={help}
        value={isUsual ? value : OWN}
        options={[
          { value: NO_PAPER, text: "None" },
          ...USUAL_PAPERS.map((paper) => ({ value: paper, text: paper.replace("x", " × ") })),
          { value: OWN, text: "Own size" },
        ]}
        onChange={(to) => onKeep(to === OWN ? FIRST_OWN : to)}
      />
      {!isUsual && (
        <TextField
          label="Sides"
          hint="In cm, in or mm, such as 50 × 70 cm."
          value={value.replace("x", " × ")}
          onCommit={(typed) => {
            const written = typed.replace(/\s*[x×]\s*/i, "x");
            // sides without a unit are in the unit that they were in
            const whole = /[a-z]$/i.test(written)
              ? written
              : `${written} ${parsePaper(value)?.unit ?? "cm"}`;
            if (parsePaper(whole)) onKeep(whole);
          }}
        />
      )}
    </>
  );
}
