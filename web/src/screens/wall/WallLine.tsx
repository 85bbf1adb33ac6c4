import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { ClocksDialog } from "../../panels/clocks/ClocksDialog";
import { COLUMN, COLUMNS } from "../../shoot/columns";
import { useOrdering } from "../../shoot/line";
import { chooseOrder, orderAgain } from "../../shoot/ordering";
import { Chip, Hint } from "../../ui/controls";
import { changeSettings, DENSITIES, type Density, useSettings } from "../../ui/settings";
import { ChooseColumns } from "./ChooseColumns";
import { SizeSlider } from "./SizeSlider";

const SAID: Record<Density, string> = {
  dense: "Hundreds at once, nothing to read",
  standard: "Pictures with their marks",
  table: "A row a frame, with evidence and capture data",
};

/** How the wall is shown: its order and how densely. */
export function WallLine() {
  const density = useSettings((s) => s.wallDensity);
  const [clocks, setClocks] = useState(false);
  return (
    <div className="flex min-h-8 shrink-0 items-center gap-2 border-b border-edge bg-wall px-4 text-xs">
      <Order />
      <span className="w-2" />
      {DENSITIES.map((one) => (
        <Hint key={one} text={SAID[one]} command="density">
          <Chip on={one === density} onClick={() => changeSettings({ wallDensity: one })}>
            {one}
          </Chip>
        </Hint>
      ))}
      <span className="flex-1" />
      <button
        type="button"
        onClick={() => setClocks(true)}
        className="min-h-6 text-ink2 underline decoration-dotted underline-offset-2"
      >
        clocks …
      </button>
      <ClocksDialog open={clocks} onOpenChange={setClocks} />
      {density === "table" && <ChooseColumns />}
      {density === "standard" && <SizeSlider />}
    </div>
  );
}

function Order() {
  const { by, down } = useOrdering();
  const title = COLUMN.get(by)?.title;
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="flex min-h-6 items-center gap-1 rounded px-1 text-ink hover:bg-raised">
          by {title} <span aria-hidden="true">▾</span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            sideOffset={4}
            className="z-40 grid grid-cols-2 gap-x-2 rounded-md border border-edge bg-wall p-1.5 text-sm shadow-xl"
          >
            {COLUMNS.map((one) => (
              <DropdownMenu.Item
                key={one.id}
                onSelect={() => void chooseOrder(one.id, one.id === "rating")}
                className={`min-h-6 cursor-default rounded px-2 data-[highlighted]:bg-held ${one.id === by ? "text-straw" : ""}`}
              >
                {one.title}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Hint text={down ? "The last first" : "The first first"}>
        <button
          type="button"
          aria-label={`Order ${title}: ${down ? "downwards" : "upwards"}, turn it round`}
          onClick={() => void chooseOrder(by, !down)}
          className="size-6 rounded hover:bg-raised"
        >
          {down ? "↓" : "↑"}
        </button>
      </Hint>
      {by !== "capture" && (
        <button
          type="button"
          title="Marks and evidence may have changed since: sort by what they are now"
          onClick={orderAgain}
          className="min-h-6 underline decoration-dotted underline-offset-2"
        >
          sort again
        </button>
      )}
    </>
  );
}
