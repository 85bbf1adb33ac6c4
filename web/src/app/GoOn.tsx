import { Popover, Switch } from "radix-ui";
import { HowMarks, KINDS } from "../panels/marking/HowMarks";
import { Hint } from "../ui/controls";
import { changeSettings, useSettings } from "../ui/settings";

/** Whether the next frame comes by itself after a mark; after which, and which frame that is. */
export function GoOn() {
  const { goOn, goOnAfter, goOnTo } = useSettings();
  const after = KINDS.filter(([kind]) => goOnAfter.includes(kind)).map(([, word]) => word);
  const short = { frame: "", undecided: " to undecided", group: " in the group" }[goOnTo];
  return (
    <span className="flex items-center gap-1.5">
      <Hint text="After a mark on one frame, the next one comes by itself" command="go-on">
        <Switch.Root
          checked={goOn}
          onCheckedChange={(now) => changeSettings({ goOn: now })}
          aria-label="Go on by itself after a mark"
          className="flex h-4 w-7 items-center rounded-full border border-ink3 bg-surround data-[state=checked]:border-straw data-[state=checked]:bg-warm"
        >
          <Switch.Thumb className="ml-0.5 block size-2.5 rounded-full bg-ink2 data-[state=checked]:ml-3.5 data-[state=checked]:bg-straw" />
        </Switch.Root>
      </Hint>
      <Popover.Root>
        <Popover.Trigger asChild>
          <button
            type="button"
            title={`After ${after.join(", ") || "nothing"}: press to change`}
            className="min-h-6 underline decoration-dotted underline-offset-4"
          >
            go on{goOn && short}
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            side="top"
            sideOffset={8}
            aria-label="How marks are set"
            className="z-40 w-96 space-y-3 rounded-md border border-edge bg-wall p-3 shadow-xl"
          >
            <HowMarks />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </span>
  );
}
