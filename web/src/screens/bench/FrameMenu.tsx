import { ContextMenu } from "radix-ui";
import type { ReactElement } from "react";
import type { Frame } from "../../api/client";
import { keyOf } from "../../keys/inForce";
import { putPoint } from "../../panels/evidence/table";
import { usePointer } from "../../pictures/aimStore";
import { decide } from "../../shoot/deciding";
import { forgetClocks, regroup, sameMoment } from "../../shoot/grouping";
import { keepLead } from "../../shoot/marking";
import { activate } from "../../shoot/moving";
import { canBeCalledBack } from "../../shoot/selecting";
import { useChosen } from "../../shoot/stage";
import { useShoot } from "../../shoot/store";
import { isInForce } from "../../shoot/walk/permits";
import { Kbd } from "../../ui/controls";
import { useStage } from "./stageStore";
import { layAside, putBack, setLayout, showChosen, showGroup } from "./staging";

interface Item {
  text: string;
  command?: string;
  run: (at: number) => void;
}

/** What can be done with a frame, at the pointer. */
export function FrameMenu({ frame, children }: { frame: Frame; children: ReactElement }) {
  return (
    <ContextMenu.Root onOpenChange={(open) => open && activate(frame.id)}>
      <ContextMenu.Trigger asChild>{children}</ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className="z-50 min-w-56 rounded-md border border-edge bg-raised p-1 text-ink shadow-xl">
          <Items frame={frame} />
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

/** Made only while the menu is open. */
function Items({ frame }: { frame: Frame }) {
  // What rests in the pass that one is in is not offered.
  const offered = groups(frame)
    .map((items) => items.filter(({ command }) => !command || isInForce(command)))
    .filter((items) => items.length);
  return offered.map((items, at) => (
    <ContextMenu.Group key={items[0]?.text} className={at ? "mt-1 border-t border-edge pt-1" : ""}>
      {items.map((item) => (
        <ContextMenu.Item
          key={item.text}
          onSelect={(event) => item.run(event.timeStamp)}
          className="flex min-h-7 cursor-default items-center justify-between gap-6 rounded px-2 outline-none data-[highlighted]:bg-held"
        >
          {item.text}
          {item.command && <Kbd>{keyOf(item.command)}</Kbd>}
        </ContextMenu.Item>
      ))}
    </ContextMenu.Group>
  ));
}

function groups(frame: Frame): Item[][] {
  const { layout, holder, challenger, aside } = useStage.getState();
  const { chosen } = useChosen.getState();
  const selected = canBeCalledBack(useShoot.getState());
  const pointer = usePointer.getState();
  const pair = layout === "two" ? (frame.id === holder ? challenger : holder) : null;
  const point = pointer.frame === frame.id ? pointer.point : null;
  const saying = (decision: Frame["decision"]) => (at: number) => decide(decision, at, [frame.id]);
  return [
    [
      { text: "Keep", command: "keep", run: saying("keep") },
      { text: "Leave undecided", command: "leave", run: saying("undecided") },
      { text: "Reject", command: "reject", run: saying("reject") },
    ],
    [
      { text: "Take off the stage", command: "lay-aside", run: () => layAside(frame.id) },
      ...(aside.length ? [{ text: "Put the last one back", command: "put-back", run: putBack }] : []),
      { text: "This frame alone", command: "layout-one", run: () => setLayout("one") },
      { text: "Two frames", command: "layout-two", run: () => setLayout("two") },
      ...(selected.length > 1
        ? [{ text: `The ${selected.length} frames selected on the wall`, run: () => showChosen(selected) }]
        : []),
      ...(chosen ? [{ text: "Back to the whole group", command: "layout-group", run: showGroup }] : []),
    ],
    [
      {
        text: "Keep the lead, leave the rest",
        command: "keep-lead",
        run: () => keepLead(frame.id, false),
      },
      {
        text: "Keep the lead, reject the rest",
        command: "keep-lead-only",
        run: () => keepLead(frame.id, true),
      },
    ],
    [
      { text: "Begin a new group here", command: "split", run: () => regroup("split", frame.id) },
      { text: "Join with the next group", command: "join", run: () => regroup("join_next", frame.id) },
      {
        text: "Move to the group before",
        command: "to-previous",
        run: () => regroup("to_previous", frame.id),
      },
      { text: "Move to the next group", command: "to-next", run: () => regroup("to_next", frame.id) },
      { text: "Group as measured", run: () => regroup("as_measured", frame.id) },
    ],
    [
      ...(pair
        ? [
            {
              text: "Both show the same moment: set this camera's clock",
              run: () => void sameMoment(pair, frame.id),
            },
            { text: "All cameras by their own clocks", run: () => void forgetClocks() },
          ]
        : []),
      ...(point ? [{ text: "Compare this point in the table", run: () => putPoint(frame, point) }] : []),
      { text: "Copy the name", run: () => void navigator.clipboard?.writeText(frame.name) },
    ],
  ];
}
