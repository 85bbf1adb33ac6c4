import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { count, dayOf } from "../../ui/format";

type Joined = components["schemas"]["JoinedView"];

/** The whole shoot as one file, and such a file joined to the pictures that lie here. */
export function WholeShoot() {
  const shootId = useShoot((s) => s.shootId);
  const [file, setFile] = useState<File | null>(null);
  const [theirs, setTheirs] = useState(false);
  const send = (query: { dry_run?: boolean; theirs?: boolean }) => (chosen: File) =>
    api
      .POST("/api/shoots/{shoot_id}/archive", {
        params: { path: { shoot_id: shootId }, query },
        body: chosen as unknown as string,
        bodySerializer: (body) => body,
        headers: { "Content-Type": "application/zip" },
      })
      .then(unwrap);
  const look = useMutation({ mutationFn: send({ dry_run: true }) });
  const join = useMutation({ mutationFn: send({ theirs }) });
  const choose = (chosen: File) => {
    setFile(chosen);
    setTheirs(false);
    join.reset();
    look.mutate(chosen);
  };
  const error = join.error ?? look.error;
  return (
    <section>
      <h2 className="text-[15px] font-semibold">The whole shoot</h2>
      <p className="mt-1 max-w-prose text-ink2">
        Marks, history, groups and passes in one file (JSON lines in a ZIP), without the pictures. On another
        machine it finds them by what is in them, whatever they are called there and wherever they lie.
      </p>
      <a
        href={`/api/shoots/${shootId}/archive`}
        download
        className="mt-3 inline-block min-h-7 rounded-md border border-line bg-raised px-3 py-1 no-underline hover:border-ink3"
      >
        Save an archive
      </a>
      <h3 className="mt-5 mb-1 font-semibold">Join one to this shoot</h3>
      <FileButton label="Archive of a shoot" accept=".zip,application/zip" onFile={choose}>
        Choose an archive …
      </FileButton>
      {error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {error.message}
        </p>
      )}
      {look.isPending && <p className="mt-2 text-ink2">Looking whose frames are here …</p>}
      {file && look.data && !join.data && (
        <div className="mt-2 max-w-prose rounded-lg border border-edge p-3" data-testid="joining">
          <Found found={look.data} />
          {look.data.differ > 0 && (
            <fieldset aria-label="Where both are marked" className="mt-2 flex flex-wrap gap-1.5">
              <Chip on={!theirs} onClick={() => setTheirs(false)}>
                what is marked here stays
              </Chip>
              <Chip on={theirs} onClick={() => setTheirs(true)}>
                the archive wins
              </Chip>
            </fieldset>
          )}
          <div className="mt-3 flex gap-2">
            <Button look="main" disabled={join.isPending} onClick={() => join.mutate(file)}>
              Join the archive
            </Button>
            <Button
              onClick={() => {
                setFile(null);
                look.reset();
              }}
            >
              Leave it
            </Button>
          </div>
        </div>
      )}
      {join.data && (
        <p role="status" className="mt-2 text-ink2">
          Joined: {inWords(join.data)}
          {join.data.whole ? "" : " It is one action, and can be undone on the wall."}
        </p>
      )}
    </section>
  );
}

function Found({ found }: { found: Joined }) {
  return (
    <>
      <p>
        <b className="font-semibold">{found.title}</b>, saved {dayOf(found.made_at)}: {found.found} of{" "}
        {count(found.frames, "frame")} {found.found === 1 ? "is" : "are"} here.
      </p>
      <p className="mt-1 text-ink2">It brings {inWords(found)}</p>
      {!found.whole && (
        <p className="mt-1 text-ink2">
          This shoot has a history of its own, so that of the archive stays in it; marks are joined as one
          action.
        </p>
      )}
      {found.differ > 0 && (
        <p className="mt-1">{count(found.differ, "frame")} marked otherwise here: say which counts.</p>
      )}
      {found.missing.length > 0 && (
        <p className="mt-1 text-ink2">
          Not here: {found.missing.slice(0, 5).join(", ")}
          {found.frames - found.found > 5 ? ` and ${found.frames - found.found - 5} more` : ""}.
        </p>
      )}
    </>
  );
}

function inWords({ taken, whole, actions, walks }: Joined): string {
  const history = whole
    ? `, ${count(actions, "action")} of its history, ${count(walks, "pass", "passes")}`
    : "";
  return `marks of ${count(taken, "frame")}${history}.`;
}
