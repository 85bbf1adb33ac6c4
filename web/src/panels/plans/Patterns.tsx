import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { tell } from "../../shoot/errors";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { KeptChip } from "../../ui/KeptChip";
import { saveFile } from "../../ui/saveFile";
import type { NamingWish } from "./Naming";

type Named = components["schemas"]["NamedPattern"];

interface Props {
  naming: NamingWish;
  onUse: (naming: NamingWish) => void;
}

/** Patterns that were kept under a name: used, kept, forgotten, saved as a file and read from one. */
export function Patterns({ naming, onUse }: Props) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const { data: kept = [] } = useQuery({
    queryKey: ["name-patterns"],
    queryFn: () => api.GET("/api/name-patterns").then(unwrap),
  });
  const onSettled = () => client.invalidateQueries({ queryKey: ["name-patterns"] });
  const keep = useMutation({
    mutationFn: async (wanted: Named[]) => {
      for (const body of wanted) await api.PUT("/api/name-patterns", { body }).then(unwrap);
    },
    onSuccess: () => setName(""),
    onError: tell,
    onSettled,
  });
  const forget = useMutation({
    mutationFn: (gone: string) =>
      api.DELETE("/api/name-patterns", { params: { query: { name: gone } } }).then(unwrap),
    onError: tell,
    onSettled,
  });
  const read = (text: string) => {
    try {
      keep.mutate(JSON.parse(text).patterns);
    } catch {
      tell(new Error("This file holds no patterns of names: choose one that was saved here."));
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-xs">
      {kept.map((one) => (
        <KeptChip
          key={one.name}
          what={`the pattern ${one.name}`}
          title={one.naming.pattern}
          on={one.naming.pattern === naming.pattern}
          onUse={() => onUse(one.naming)}
          onForget={() => forget.mutate(one.name)}
        >
          {one.name}
        </KeptChip>
      ))}
      <input
        aria-label="Name for this pattern"
        placeholder="keep as …"
        value={name}
        maxLength={80}
        onChange={(event) => setName(event.target.value)}
        className="h-7 w-28 rounded border border-line bg-pit px-2 placeholder:text-ink3"
      />
      <Button disabled={!name.trim()} onClick={() => keep.mutate([{ name, naming }])}>
        Keep
      </Button>
      <Button
        disabled={!kept.length}
        onClick={() =>
          saveFile("name-patterns.json", JSON.stringify({ patterns: kept }, null, 2), "application/json")
        }
      >
        Save as a file
      </Button>
      <FileButton label="Patterns of names" accept=".json,application/json" onText={read}>
        Read a file …
      </FileButton>
    </div>
  );
}
