import { useState } from "react";
import { FIRST_NAMING, Naming, type NamingWish } from "../../panels/plans/Naming";
import type { Wish } from "../../panels/plans/usePlans";
import { Button } from "../../ui/controls";
import type { Scope } from "./scope";
import { useNames } from "./useNames";

interface Props {
  scope: Scope;
  onMake: (wish: Wish) => void;
  onChange: () => void;
}

/** Frames named anew where they are. */
export function OtherNames({ scope, onMake, onChange }: Props) {
  const [naming, setNaming] = useState<NamingWish>(FIRST_NAMING);
  const names = useNames(scope, "in place");
  return (
    <section>
      <h2 className="text-[15px] font-semibold">Other names</h2>
      <p className="mt-1 max-w-prose text-ink2">
        In the order of the wall. RAW, JPEG and sidecar of a frame stay together; the first name is kept in
        the sidecar (xmpMM:PreservedFileName), and the plan can be taken back.
      </p>
      <Naming
        always
        naming={naming}
        {...names}
        onChange={(changed) => {
          if (changed) setNaming(changed);
          onChange();
        }}
      />
      <div className="mt-3">
        <Button
          look="main"
          disabled={!scope.frames}
          onClick={() => onMake({ kind: "rename", ...scope.wish, naming })}
        >
          Plan the names
        </Button>
      </div>
    </section>
  );
}
