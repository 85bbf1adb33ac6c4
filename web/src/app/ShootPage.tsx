import { type ComponentType, useEffect } from "react";
import { useKeys } from "../keys/useKeys";
import { EditorsDialog } from "../panels/editors/EditorsDialog";
import { Whereabouts } from "../panels/folders/Whereabouts";
import { Guide } from "../panels/guide/Guide";
import { History } from "../panels/history/History";
import { Legend } from "../panels/labels/Legend";
import { Palette } from "../panels/palette/Palette";
import { PassesDialog } from "../panels/passes/PassesDialog";
import { PassLine } from "../panels/passes/PassLine";
import { usePanels } from "../panels/shown";
import { Spine } from "../panels/spine/Spine";
import { Words } from "../panels/words/Words";
import { Bench } from "../screens/bench/Bench";
import { Handoff } from "../screens/handoff/Handoff";
import { Sync } from "../screens/sync/Sync";
import { Wall } from "../screens/wall/Wall";
import { useCompanyOn } from "../shoot/company";
import { useShoot } from "../shoot/store";
import { useCard } from "../shoot/useCard";
import { leaveWalk } from "../shoot/walk/walking";
import { useTitle } from "../ui/useTitle";
import { Alert } from "./Alerts";
import { Header } from "./Header";
import { useHere } from "./here";
import { KeysDialog } from "./KeysDialog";
import { NotOpened, Opening } from "./Opening";
import { ScopeLine } from "./ScopeLine";
import { hasFrames, SCREENS, type Screen } from "./screens";

const SHOWN: Record<Screen, ComponentType> = { wall: Wall, bench: Bench, handoff: Handoff, sync: Sync };

/** One shoot: what all of its screens share, and the screen that is asked for. */
export function ShootPage({ shootId, asked }: { shootId: number; asked: string | undefined }) {
  const screen = SCREENS.find((one) => one.screen === asked)?.screen ?? "wall";
  const hasPictures = hasFrames(screen);
  const { spine, bare } = usePanels();
  const isBare = bare && hasPictures;
  const loaded = useShoot((s) => s.loaded && s.shootId === shootId);
  const Shown = SHOWN[screen];
  const card = useCard(shootId);
  useHere(shootId, screen);
  useCompanyOn(shootId, screen);
  useTitle(card?.title, SCREENS.find((one) => one.screen === screen)?.title);
  useKeys(screen);
  useLeavingWalk(screen);
  const failed = useShoot((s) => s.failure !== null);
  if (failed) return <NotOpened />;
  return (
    <div className="flex h-full flex-col">
      {!isBare && <Header screen={screen} />}
      <PassLine />
      <FolderGone shootId={shootId} />
      <div className="flex min-h-0 flex-1">
        {loaded && spine && hasPictures && !isBare && <Spine />}
        {loaded ? <Shown /> : <Opening />}
        {loaded && hasPictures && <Words />}
        {loaded && hasPictures && <History />}
        {loaded && hasPictures && <Legend />}
      </div>
      {!isBare && <ScopeLine screen={screen} />}
      <KeysDialog screen={screen} />
      <Palette screen={screen} />
      <PassesDialog />
      {loaded && hasPictures && <EditorsDialog />}
      {loaded && hasPictures && <Guide />}
    </div>
  );
}

/** A pass is gone through on the bench: elsewhere one has left it. */
function useLeavingWalk(screen: Screen) {
  useEffect(() => {
    if (screen !== "bench") void leaveWalk();
  }, [screen]);
  useEffect(() => () => void leaveWalk(), []);
}

function FolderGone({ shootId }: { shootId: number }) {
  const card = useCard(shootId);
  const unreadable = useShoot((s) => s.progress?.state === "unreadable");
  if (!card || !(card.gone || unreadable)) return null;
  return (
    <Alert>
      <span className="flex-1">
        {card.folders.join(", ")} cannot be reached. Connect its disk, and the work goes on by itself; or say
        where it is now. All marks are kept.
      </span>
      <Whereabouts shootId={shootId} title={card.title} />
    </Alert>
  );
}
