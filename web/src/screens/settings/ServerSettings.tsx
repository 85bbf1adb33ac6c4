import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { inWords } from "../../api/words";
import { Button } from "../../ui/controls";
import { bytes } from "../../ui/format";
import { Part } from "./Part";

type Kept = components["schemas"]["Settings"];
type Wish = components["schemas"]["SettingsWish"];

const COUNTING_MS = 1000;

/** What each setting is called here; what it means is told by the server. */
const TITLES: { [K in keyof Wish]-?: string } = {
  cache_gb: "Room for previews, GB",
  takes_in: "Take over marks of other programs",
  full_sidecar_names: "Sidecars with both endings",
  watch: "Notice changes on disk",
  workers: "Processes that measure",
  open_browser: "Open the browser at the start",
  port: "Port",
  backups_kept: "Daily backups kept",
  picture_names_in_log: "Names in the log",
};
const NAMES = Object.keys(TITLES) as (keyof Wish)[];

/** What is set for this Winnow, for everybody who uses it; kept in a file that may be edited as well. */
export function ServerSettings() {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ["settings"],
    queryFn: () => api.GET("/api/settings").then(unwrap),
    staleTime: 0,
    refetchInterval: ({ state }) => (state.data && state.data.cache_bytes === null ? COUNTING_MS : false),
  });
  const change = useMutation({
    mutationFn: (wish: Wish) => api.PUT("/api/settings", { body: wish }).then(unwrap),
    onSuccess: (now) => client.setQueryData(["settings"], now),
  });
  if (error) return <p role="alert">{inWords(error)}</p>;
  if (!data) return <p className="text-ink2">Reading the settings …</p>;
  return (
    <Part title="In this Winnow">
      {data.problem && (
        <p role="alert" className="rounded border border-straw bg-warm px-3 py-1.5">
          {data.problem} Until then, what it said last is in force, and nothing can be changed here.
        </p>
      )}
      {change.error && (
        <p role="alert" className="rounded border border-straw bg-warm px-3 py-1.5">
          {change.error.message}
        </p>
      )}
      <ul className="space-y-3">
        {NAMES.map((name) => (
          <li key={name}>
            <Setting
              key={String(data[name])}
              name={name}
              kept={data}
              onChange={(value) => change.mutate({ [name]: value })}
            />
          </li>
        ))}
      </ul>
      <p className="text-xs text-ink2">
        Kept in <span className="break-all text-ink">{data.file}</span>, which may be edited as well.
      </p>
    </Part>
  );
}

interface Props {
  name: keyof Wish;
  kept: Kept;
  onChange: (value: boolean | number) => void;
}

function Setting({ name, kept, onChange }: Props) {
  const value = kept[name];
  const used = name === "cache_gb" ? ` They take ${room(kept)} now.` : "";
  return (
    <div className="grid grid-cols-[6rem_1fr] items-start gap-x-4">
      {typeof value === "boolean" ? (
        <input
          id={name}
          type="checkbox"
          aria-describedby={`${name}-meaning`}
          checked={value}
          disabled={Boolean(kept.problem)}
          onChange={(event) => onChange(event.target.checked)}
          className="mt-1 size-4 justify-self-end"
        />
      ) : (
        <NumberField name={name} value={value} disabled={Boolean(kept.problem)} onChange={onChange} />
      )}
      <div>
        <label htmlFor={name} className="block min-h-6 font-semibold">
          {TITLES[name]}
        </label>
        <p id={`${name}-meaning`} className="max-w-[64ch] text-xs text-ink2">
          {kept.meanings[name]}
          {used}
        </p>
      </div>
    </div>
  );
}

interface NumberProps {
  name: string;
  value: number;
  disabled: boolean;
  onChange: (value: number) => void;
}

/** A number counts once it is set: what is half typed does nothing. */
function NumberField({ name, value, disabled, onChange }: NumberProps) {
  const [typed, setTyped] = useState(String(value));
  return (
    <form
      className="flex flex-col items-end gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        onChange(Number(typed));
      }}
    >
      <input
        id={name}
        type="number"
        step={1}
        required
        aria-describedby={`${name}-meaning`}
        value={typed}
        disabled={disabled}
        onChange={(event) => setTyped(event.target.value)}
        className="w-24 rounded border border-line bg-pit px-1.5 py-0.5 text-right tabular-nums"
      />
      {typed !== String(value) && <Button type="submit">Set</Button>}
    </form>
  );
}

function room({ cache_bytes }: Kept): string {
  return cache_bytes === null ? "… (being counted)" : bytes(cache_bytes);
}
