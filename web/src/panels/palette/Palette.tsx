import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type KeyboardEvent, useId, useRef, useState } from "react";
import { api, unwrap } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { useWalk } from "../../shoot/walk/store";
import { usePasses, usePassesOfShoot } from "../../shoot/walk/usePasses";
import { Kbd } from "../../ui/controls";
import { changeSettings, settings } from "../../ui/settings";
import { type Entry, found } from "./entries";
import { closePalette, usePalette } from "./open";

/** So many things are remembered as used lately. */
const REMEMBERED = 12;

/** A few letters of what one wants, and Enter does it: commands with their keys, filters, scenes, frames. */
export function Palette({ screen }: { screen: string }) {
  const { open } = usePalette();
  const chosen = useRef<Entry>(null);
  return (
    <Dialog.Root open={open} onOpenChange={(now) => usePalette.setState({ open: now })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          // What was chosen is done when the keyboard is back where it was: it may act on that, or open something.
          onCloseAutoFocus={() => {
            const entry = chosen.current;
            chosen.current = null;
            if (entry) requestAnimationFrame(() => entry.run(performance.now()));
          }}
          className="fixed top-[12vh] left-1/2 z-50 w-[min(560px,94vw)] -translate-x-1/2 rounded-lg border border-edge bg-wall p-2 shadow-xl"
        >
          <Dialog.Title className="sr-only">Find anything</Dialog.Title>
          {open && (
            <Finder
              screen={screen}
              onChoose={(entry) => {
                chosen.current = entry;
                closePalette();
              }}
            />
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Finder({ screen, onChoose }: { screen: string; onChoose: (entry: Entry) => void }) {
  const shootId = useShoot((s) => s.shootId);
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const list = useId();
  const { data: filters = [] } = useQuery({
    queryKey: ["filters", shootId],
    staleTime: 0,
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}/filters", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  });
  const passes = usePasses();
  const walks = usePassesOfShoot(true)?.walks ?? [];
  const toBegin = [...(passes?.ours ?? []), ...(passes?.own ?? [])].map(({ name }) => ({
    name,
    begun: walks.find((one) => one.name === name && !one.ended_at && !one.taken_back)?.id ?? null,
  }));
  const inPass = useWalk((s) => s.walk !== null);
  const entries = found(screen, typed, { filters, passes: toBegin }, settings().recent);
  const choose = (entry: Entry | undefined) => {
    if (!entry) return;
    const others = settings().recent.filter((id) => id !== entry.id);
    changeSettings({ recent: [entry.id, ...others].slice(0, REMEMBERED) });
    onChoose(entry);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Enter") choose(entries[at]);
    else if (event.key === "ArrowDown") setAt(Math.min(entries.length - 1, at + 1));
    else if (event.key === "ArrowUp") setAt(Math.max(0, at - 1));
    else return;
    event.preventDefault();
  };
  return (
    <>
      <input
        role="combobox"
        aria-label="Find a command, a filter, a scene or a frame"
        aria-expanded={entries.length > 0}
        aria-controls={list}
        aria-activedescendant={entries[at] && `${list}-${at}`}
        autoComplete="off"
        spellCheck={false}
        placeholder="a few letters: a command, a filter, scene 3, 0412"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onKeyDown={onKeyDown}
        className="h-9 w-full rounded border border-line bg-pit px-3 placeholder:text-ink3"
      />
      <div id={list} role="listbox" aria-label="What fits" className="pt-1.5">
        {entries.map((entry, place) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the arrows and Enter choose from the field
          // biome-ignore lint/a11y/useFocusableInteractive: the field keeps the focus
          <div
            key={entry.id}
            id={`${list}-${place}`}
            role="option"
            aria-selected={place === at}
            onMouseDown={(event) => event.preventDefault()}
            onMouseMove={() => setAt(place)}
            onClick={() => choose(entry)}
            className={`flex min-h-7 cursor-default items-center gap-3 rounded px-3 ${place === at ? "bg-held" : ""}`}
          >
            <span className="truncate">{entry.title}</span>
            <span className="min-w-0 flex-1 truncate text-right text-xs text-ink2">{entry.kind}</span>
            {entry.key && <Kbd>{entry.key}</Kbd>}
          </div>
        ))}
        {entries.length === 0 && (
          <p className="px-3 py-1.5 text-ink2">
            {inPass
              ? "In this pass nothing is called like that. Esc leaves it."
              : "Nothing is called like that."}
          </p>
        )}
      </div>
    </>
  );
}
