import { Link } from "wouter";
import { HowMarks } from "../../panels/marking/HowMarks";
import { Chip } from "../../ui/controls";
import { Home } from "../../ui/Home";
import { changeSettings, SURROUNDS, useSettings } from "../../ui/settings";
import { useTitle } from "../../ui/useTitle";
import { Devices } from "./Devices";
import { LookedAfter } from "./LookedAfter";
import { Part } from "./Part";
import { ServerSettings } from "./ServerSettings";

/** All that can be set: for this browser, and for the Winnow that it is open on. */
export function Settings() {
  useTitle("Settings");
  const { surround, capture, follow } = useSettings();
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-3 border-b border-edge bg-wall px-3.5">
        <Home />
        <h1 className="flex-1 text-ink2">Settings</h1>
        <Link href="/keys" className="flex min-h-6 items-center underline underline-offset-2">
          Keys
        </Link>
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        <div className="mx-auto grid max-w-[1180px] grid-cols-[5fr_7fr] gap-8 max-[900px]:grid-cols-1">
          <div className="space-y-8">
            <Part title="In this browser">
              <section>
                <h3 className="pb-1 text-xs text-ink2">Around the pictures it is</h3>
                <div className="flex flex-wrap gap-1.5">
                  {SURROUNDS.map((one) => (
                    <Chip key={one} on={surround === one} onClick={() => changeSettings({ surround: one })}>
                      {one}
                    </Chip>
                  ))}
                </div>
              </section>
              <section>
                <h3 className="pb-1 text-xs text-ink2">On the bench</h3>
                <div className="flex flex-wrap gap-1.5">
                  <Chip on={follow} onClick={() => changeSettings({ follow: !follow })}>
                    the zoom follows the subject
                  </Chip>
                  <Chip on={capture} onClick={() => changeSettings({ capture: !capture })}>
                    capture data over the pictures
                  </Chip>
                </div>
              </section>
              <HowMarks />
            </Part>
            <LookedAfter />
            <Devices />
          </div>
          <ServerSettings />
        </div>
      </main>
    </div>
  );
}
