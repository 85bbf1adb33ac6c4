import { Popover } from "radix-ui";
import { COLUMNS } from "../../shoot/columns";
import { chipLook } from "../../ui/controls";
import { changeSettings, useSettings } from "../../ui/settings";

/** Which columns the table has, in the order in which they were chosen. */
export function ChooseColumns() {
  const chosen = useSettings((s) => s.tableColumns);
  const toggle = (id: string, on: boolean) =>
    changeSettings({ tableColumns: on ? [...chosen, id] : chosen.filter((one) => one !== id) });
  return (
    <Popover.Root>
      <Popover.Trigger className={chipLook(false)}>columns …</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Columns of the table"
          className="z-40 grid grid-cols-2 gap-x-4 rounded-md border border-edge bg-wall p-3 shadow-xl"
        >
          {COLUMNS.map(({ id, title }) => (
            <label key={id} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                checked={chosen.includes(id)}
                onChange={(event) => toggle(id, event.target.checked)}
              />
              {title}
            </label>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
