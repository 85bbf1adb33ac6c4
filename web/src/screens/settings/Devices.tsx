import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { Button, Chip } from "../../ui/controls";
import { moment } from "../../ui/format";
import { Part } from "./Part";

const LOOK_MS = 4000;

/** Tablets and other machines: let in by a code, and out again. */
export function Devices() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["devices"],
    queryFn: () => api.GET("/api/entry/devices").then(unwrap),
    staleTime: 0,
    refetchInterval: LOOK_MS, // whoever was given a code comes in meanwhile
  });
  const [name, setName] = useState("");
  const [proposes, setProposes] = useState(false);
  const invite = useMutation({
    mutationFn: () => api.POST("/api/entry/devices", { body: { name, proposes } }).then(unwrap),
    onSuccess: () => setName(""),
  });
  const setManner = useMutation({
    mutationFn: ({ id, ...body }: { id: number; proposes: boolean }) =>
      api.PUT("/api/entry/devices/{device_id}", { params: { path: { device_id: id } }, body }).then(unwrap),
    onSuccess: () => client.invalidateQueries({ queryKey: ["devices"] }),
  });
  const withdraw = useMutation({
    mutationFn: (id: number) =>
      api.DELETE("/api/entry/devices/{device_id}", { params: { path: { device_id: id } } }).then(unwrap),
    onSuccess: () => client.invalidateQueries({ queryKey: ["devices"] }),
  });
  if (!data) return null;
  return (
    <Part title="Other devices">
      {data.addresses.length === 0 && (
        <p className="text-ink2">
          Other machines do not reach this Winnow. Started with{" "}
          <code className="text-ink">winnow serve --lan</code>, it lets a tablet of the same network in, by a
          code.
        </p>
      )}
      {data.addresses.length > 0 && data.may_change && (
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            invite.mutate();
          }}
        >
          <input
            aria-label="Who uses the device, for the history"
            placeholder="who uses it, for the history"
            required
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="h-7 w-56 rounded border border-line bg-pit px-2 placeholder:text-ink3"
          />
          <Button type="submit">Let a device in …</Button>
          <Chip on={proposes} onClick={() => setProposes(!proposes)}>
            its marks are proposals
          </Chip>
        </form>
      )}
      {invite.error && <p role="alert">{invite.error.message}</p>}
      {invite.data && (
        <div role="status" className="rounded border border-straw bg-warm px-3 py-2">
          <p>
            On the device, open <b className="break-all">{invite.data.addresses.join(" or ")}</b> and type
          </p>
          <p className="py-1 text-2xl font-semibold tracking-widest" data-testid="device-code">
            {invite.data.code}
          </p>
          <p className="text-xs text-ink2">
            It lets one device in, within {Math.round(invite.data.valid_s / 60)} minutes. What goes over the
            network is not encrypted.
          </p>
        </div>
      )}
      {data.devices.length > 0 && (
        <ul aria-label="Devices that are let in" className="space-y-1">
          {data.devices.map((device) => (
            <li key={device.id} className="flex items-center gap-3">
              <span className="min-w-0 flex-1 truncate">{device.name}</span>
              <span className="text-xs text-ink2">last here {moment(device.seen_at)}</span>
              {data.may_change ? (
                <Chip
                  on={device.proposes}
                  onClick={() => setManner.mutate({ id: device.id, proposes: !device.proposes })}
                >
                  proposes
                </Chip>
              ) : (
                device.proposes && <span className="text-xs">proposes</span>
              )}
              {data.may_change && (
                <Button aria-label={`Withdraw ${device.name}`} onClick={() => withdraw.mutate(device.id)}>
                  Withdraw
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
    </Part>
  );
}
