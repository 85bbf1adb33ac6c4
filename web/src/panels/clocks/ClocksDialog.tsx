import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, pictureUrl, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { tell } from "../../shoot/errors";
import { isPreparing, useShoot } from "../../shoot/store";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";
import { LargeDialog } from "../../ui/LargeDialog";
import { Thumbnail } from "../../ui/Thumbnail";

type Clock = components["schemas"]["ClockView"];

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** The clocks of the cameras: what they are set to here, and what frames that seem to show the same moment say. Nothing is
 * taken over but by the person. */
export function ClocksDialog({ open, onOpenChange }: Props) {
  return (
    <LargeDialog
      title="Clocks of the cameras"
      width="w-[min(820px,96vw)]"
      open={open}
      onOpenChange={onOpenChange}
    >
      <Cameras />
    </LargeDialog>
  );
}

function Cameras() {
  const shootId = useShoot((s) => s.shootId);
  const measuring = useShoot((s) => isPreparing(s.progress));
  const client = useQueryClient();
  const path = { shoot_id: shootId };
  const queryKey = ["clocks", shootId, measuring];
  const { data } = useQuery({
    queryKey,
    staleTime: 0,
    queryFn: () => api.GET("/api/shoots/{shoot_id}/clocks", { params: { path } }).then(unwrap),
  });
  const set = useMutation({
    mutationFn: (body: { camera: string; ahead_s: number }) =>
      api.POST("/api/shoots/{shoot_id}/clocks", { params: { path }, body }).then(unwrap),
    onError: tell,
    onSettled: () => client.invalidateQueries({ queryKey: ["clocks"] }),
  });
  if (!data) return <p className="pt-3 text-ink2">Looking for frames that show the same moment …</p>;
  const [first] = data.cameras;
  if (data.cameras.length < 2)
    return <p className="pt-3 text-ink2">All frames are of one camera{first ? `, ${first.name}` : ""}.</p>;
  return (
    <>
      <p className="pt-1 text-ink2">
        Files stay as they are: frames of a camera move in the order of the shoot.
        {measuring && " Not all frames are measured yet: more pairs may come up."}
      </p>
      {data.cameras.map((clock) => (
        <section key={clock.camera} className="mt-3 border-t border-edge pt-3">
          <h3 className="flex items-baseline gap-2">
            <b className="font-semibold">{clock.name}</b>
            <span className="text-ink2">
              {clock.camera} · {count(clock.frames, "frame")} ·{" "}
              {shiftInWords(clock.ahead_s, "as its own clock")}
            </span>
            <span className="flex-1" />
            {clock.ahead_s !== 0 && (
              <Button onClick={() => set.mutate({ camera: clock.camera, ahead_s: 0 })}>
                By its own clock again
              </Button>
            )}
          </h3>
          <Suggested
            clock={clock}
            beside={data.cameras.find(({ camera }) => camera === clock.beside)}
            isFirst={clock === first}
            onTake={(ahead_s) => set.mutate({ camera: clock.camera, ahead_s })}
          />
        </section>
      ))}
    </>
  );
}

interface SuggestedProps {
  clock: Clock;
  beside: Clock | undefined;
  isFirst: boolean;
  onTake: (aheadS: number) => void;
}

function Suggested({ clock, beside, isFirst, onTake }: SuggestedProps) {
  const { suggested_s, pairs, considered } = clock;
  if (isFirst) return null;
  if (suggested_s === null) {
    return (
      <p className="pt-1 text-ink2">
        No frames with people were found that agree on a moment. On the bench, the menu of a frame sets the
        clock by two frames that you know show the same moment.
      </p>
    );
  }
  // The other camera's clock may be set as well.
  const wanted = Math.round((suggested_s + (beside?.ahead_s ?? 0)) * 10) / 10;
  const isTaken = Math.abs(wanted - clock.ahead_s) < 0.05;
  return (
    <div className="pt-1">
      <p data-testid="suggested-shift">
        {count(pairs.length, "pair")} of frames {pairs.length === 1 ? "says" : "say"}: its clock is{" "}
        <b className="font-semibold">{shiftInWords(suggested_s, "right")}</b>{" "}
        <span className="text-ink2">
          ({signed(suggested_s)} s beside {beside?.name}). {pairs.length} of the {considered} frames that look
          like one of the other camera agree on it.
        </span>
      </p>
      <ul className="flex flex-wrap gap-3 py-2">
        {pairs.slice(0, 6).map(({ frame, other, ahead_s }) => (
          <li key={other.id} className="text-xs text-ink2">
            <span className="flex gap-px">
              <Thumbnail src={pictureUrl(frame, "thumb")} className="h-20 max-w-32 object-cover" />
              <Thumbnail src={pictureUrl(other, "thumb")} className="h-20 max-w-32 object-cover" />
            </span>
            {signed(ahead_s)} s
          </li>
        ))}
      </ul>
      {isTaken ? (
        <p className="text-ink2">Taken over.</p>
      ) : (
        <Button look="main" onClick={() => onTake(wanted)}>
          Set it by these
        </Button>
      )}
    </div>
  );
}

function signed(seconds: number): string {
  return `${seconds < 0 ? "−" : "+"}${Math.abs(seconds).toFixed(1)}`;
}

function shiftInWords(seconds: number, none: string): string {
  if (seconds === 0) return none;
  const whole = Math.round(Math.abs(seconds));
  const [hours, minutes, rest] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  const parts = [hours && `${hours} h`, minutes && `${minutes} min`, (rest || whole === 0) && `${rest} s`];
  return `${parts.filter(Boolean).join(" ")} ${seconds < 0 ? "slow" : "fast"}`;
}
