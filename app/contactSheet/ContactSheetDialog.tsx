import { useState } from "react";
import { safeName } from "../../pipeline/deliver/fileName";
import { USUAL_PAPERS } from "../../pipeline/deliver/paper";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { bytesText } from "../ui/bytesText";
import { counted } from "../ui/format";
import { Menu } from "../ui/Menu";
import { SmallDialog } from "../ui/SmallDialog";
import { handOver, zipped } from "../work/handOver";
import { startJob } from "../work/jobs";
import { makeSheet } from "./makeSheet";
import type { SheetOrder } from "./messages";

interface Props {
  open: boolean;
  onClose: () => void;
  /** of the sheet, and of its file */
  title: string;
  /** of the shoot */
  shoot: string;
  entries: () => SheetOrder["entries"];
  count: number;
}

const COLUMNS = ["2", "3", "4", "5", "6"];

/** Asks how a contact sheet is to be, and has it made in the tray. */
export function ContactSheetDialog({ open, onClose, title, shoot, entries, count }: Props) {
  const [paper, setPaper] = useState("A4");
  const [columns, setColumns] = useState("3");
  const [format, setFormat] = useState<SheetOrder["format"]>("pdf");
  const make = (): void => {
    onClose();
    const order = { title, paper, columns: Number(columns), format, entries: entries() };
    const name = `${safeName(title)} contact sheet`;
    void startJob(
      name,
      async (report, signal) => {
        const files = await makeSheet(order, report, signal);
        const [only, ...others] = files;
        const named = files.map((content, i) => ({ name: `${name} ${i + 1}.jpg`, content }));
        const out = others.length
          ? { name: `${name}.zip`, content: await zipped(named) }
          : { name: `${name}.${format}`, content: only! };
        handOver(out);
        return `${out.name}, ${bytesText(out.content.size)}`;
      },
      { kind: "delivery", shoot },
    );
  };
  return (
    <SmallDialog title="Contact sheet" open={open} onClose={onClose} width={352}>
      <Menu
        label="Paper"
        hint="Upright pages of this size."
        value={paper}
        options={USUAL_PAPERS.map((value) => ({ value, text: value.replace("x", " × ") }))}
        onChange={setPaper}
      />
      <Menu
        label="In a row"
        hint="Pictures beside each other."
        value={columns}
        options={COLUMNS.map((value) => ({ value, text: value }))}
        onChange={setColumns}
      />
      <Choice
        label="Format"
        hint="A PDF of all pages, or a JPEG for each."
        value={format}
        options={[
          { value: "pdf", text: "PDF" },
          { value: "jpg", text: "JPEG" },
        ]}
        onChange={setFormat}
      />
      <div className="mt-3 flex justify-end">
        <Button variant="accent" disabled={!count} onClick={make}>
          Make it of {counted(count, "stack")}
        </Button>
      </div>
    </SmallDialog>
  );
}
