import { useShoot } from "../../shoot/store";
import { wordScope } from "../../shoot/words";
import { LargeDialog } from "../../ui/LargeDialog";
import { Editors } from "./Editors";
import { useEditorsOpen } from "./open";

/** What the next key would act on, opened in an editing program. */
export function EditorsDialog() {
  const { open } = useEditorsOpen();
  const counted = useShoot((s) => s.selection.size || (s.active === null ? 0 : 1));
  const setOpen = (now: boolean) => useEditorsOpen.setState({ open: now });
  return (
    <LargeDialog
      title="Open in an editing program"
      width="w-[min(560px,96vw)]"
      open={open}
      onOpenChange={setOpen}
    >
      <Editors
        first
        frames={() => wordScope(useShoot.getState())}
        counted={counted}
        onOpened={() => setOpen(false)}
      />
    </LargeDialog>
  );
}
