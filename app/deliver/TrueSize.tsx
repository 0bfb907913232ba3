import { Dialog } from "radix-ui";
import { useState } from "react";
import { Button } from "../ui/Button";
import { NumberSlider } from "../ui/NumberSlider";
import type { Cell, PlannedStack } from "./plan";
import { CARD_MM, FEWEST, keepScreenScale, MOST, readScreenScale } from "./screenScale";
import { Sheet } from "./Sheet";

/** The print as large as it will be in the hand; the screen is held against a card once. */
export function TrueSize({ planned, cell }: { planned: PlannedStack; cell: Cell }) {
  const [isOpen, setOpen] = useState(false);
  const [scale, setScale] = useState(readScreenScale);
  const [isMeasuring, setMeasuring] = useState(false);
  const { paper } = cell.layout;
  if (!paper) return null;
  const { pxPerMm, isMeasured } = scale;
  return (
    <Dialog.Root
      open={isOpen}
      onOpenChange={(to) => {
        setOpen(to);
        setMeasuring(to && !isMeasured);
      }}
    >
      <Dialog.Trigger asChild>
        <Button className="mt-2" hint="Seen from where it will hang, it looks as it will">
          As large as it will be
        </Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-0 z-50 flex flex-col bg-ground"
        >
          <div className="flex h-11 shrink-0 items-center gap-3 border-b border-line bg-panel px-4">
            <Dialog.Title className="grow font-semibold">As large as it will be</Dialog.Title>
            <Button onClick={() => setMeasuring(!isMeasuring)}>
              {isMeasuring ? "Show the print" : "Hold a card to the screen"}
            </Button>
            <Dialog.Close asChild>
              <Button>Close</Button>
            </Dialog.Close>
          </div>
          {isMeasuring ? (
            <Measuring
              pxPerMm={pxPerMm}
              onChange={(to) => {
                setScale({ pxPerMm: to, isMeasured: true });
                keepScreenScale(to);
              }}
            />
          ) : (
            <div className="min-h-0 grow overflow-auto p-6">
              <div
                className="mx-auto"
                style={{ width: paper.width * pxPerMm }}
                data-testid="print at its size"
              >
                <Sheet planned={planned} cell={cell} />
              </div>
            </div>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** A rectangle that is made as large as a card. */
function Measuring({ pxPerMm, onChange }: { pxPerMm: number; onChange: (to: number) => void }) {
  return (
    <div className="grid grow place-items-center">
      <div className="grid gap-4" style={{ width: Math.max(360, CARD_MM.width * pxPerMm) }}>
        <p>
          Hold a bank card flat to the screen, and make the rectangle just as large. This is asked
          once for a screen.
        </p>
        <div
          role="img"
          aria-label="A card"
          className="rounded-lg border-2 border-accent"
          style={{ width: CARD_MM.width * pxPerMm, height: CARD_MM.height * pxPerMm }}
        />
        <NumberSlider
          label="Width of the card"
          hint="As wide as the card is on this screen."
          unit="px"
          shown={(value) => String(Math.round(value * CARD_MM.width))}
          parse={(n) => n / CARD_MM.width}
          min={FEWEST}
          max={MOST}
          step={1 / CARD_MM.width}
          reset={96 / 25.4}
          value={pxPerMm}
          onChange={onChange}
          onCommit={onChange}
        />
      </div>
    </div>
  );
}
