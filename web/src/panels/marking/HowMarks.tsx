import type { ReactNode } from "react";
import { Chip } from "../../ui/controls";
import { changeSettings, type GoOnTo, type MarkKind, useSettings } from "../../ui/settings";

export const KINDS: [MarkKind, string][] = [
  ["decision", "decisions"],
  ["rating", "stars"],
  ["label", "labels"],
];
const TO: [GoOnTo, string][] = [
  ["frame", "the next frame"],
  ["undecided", "the next undecided frame"],
  ["group", "the next undecided of the group, then the next group"],
];

/** How marks are set: whether and where one goes on, what takes a mark off again, who makes them. */
export function HowMarks() {
  const { goOnAfter, goOnTo, goOnComparing, againClears, starKeeps, name } = useSettings();
  const toggled = (kinds: MarkKind[], kind: MarkKind) =>
    kinds.includes(kind) ? kinds.filter((one) => one !== kind) : [...kinds, kind];
  return (
    <>
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
    </>
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
