import { Popover, Switch } from "radix-ui";
import type { ReactNode } from "react";
import { Chip, Hint } from "../ui/controls";
import { changeSettings, type GoOnTo, type MarkKind, useSettings } from "../ui/settings";

const KINDS: [MarkKind, string][] = [
  ["decision", "decisions"],
  ["rating", "stars"],
  ["label", "labels"],
];
const TO: [GoOnTo, string][] = [
  ["frame", "the next frame"],
  ["undecided", "the next undecided frame"],
  ["group", "the next undecided of the group, then the next group"],
];

/** Whether the next frame comes by itself after a mark; after which, and which frame that is. */
export function GoOn() {
  const { goOn, goOnAfter, goOnTo, goOnComparing, againClears, starKeeps, name } = useSettings();
  const toggled = (kinds: MarkKind[], kind: MarkKind) =>
    kinds.includes(kind) ? kinds.filter((one) => one !== kind) : [...kinds, kind];
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
            <Choice title="Go on by itself after">
              {KINDS.map(([kind, word]) => (
                <Chip
                  key={kind}
                  on={goOnAfter.includes(kind)}
                  onClick={() => changeSettings({ goOnAfter: toggled(goOnAfter, kind) })}
                >
                  {word}
                </Chip>
              ))}
              <Chip on={goOnComparing} onClick={() => changeSettings({ goOnComparing: !goOnComparing })}>
                also while two are compared
              </Chip>
            </Choice>
            <Choice title="It leads to">
              {TO.map(([to, word]) => (
                <Chip key={to} on={goOnTo === to} onClick={() => changeSettings({ goOnTo: to })}>
                  {word}
                </Chip>
              ))}
            </Choice>
            <Choice title="Set again, it is taken off">
              {KINDS.map(([kind, word]) => (
                <Chip
                  key={kind}
                  on={againClears.includes(kind)}
                  onClick={() => changeSettings({ againClears: toggled(againClears, kind) })}
                >
                  {word}
                </Chip>
              ))}
            </Choice>
            <Choice title="Stars">
              <Chip on={starKeeps} onClick={() => changeSettings({ starKeeps: !starKeeps })}>
                a star keeps; the last one taken off leaves it undecided
              </Chip>
            </Choice>
            <Choice title="Marks in this browser are made by">
              <input
                aria-label="Your name, for the history"
                placeholder="your name, for the history"
                value={name}
                maxLength={80}
                onChange={(event) => changeSettings({ name: event.target.value })}
                className="h-7 w-56 rounded border border-line bg-pit px-2 placeholder:text-ink3"
              />
            </Choice>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </span>
  );
}

function Choice({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3 className="pb-1 text-xs text-ink2">{title}</h3>
      <div className="flex flex-wrap gap-1.5">{children}</div>
    </section>
  );
}
