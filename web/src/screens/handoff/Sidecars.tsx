import type { Wish } from "../../panels/plans/usePlans";
import { useShoot } from "../../shoot/store";
import { Button } from "../../ui/controls";
import { ServerSwitch } from "../../ui/ServerSwitch";

/** Marks into sidecars, where the frames are. */
export function Sidecars({ onMake }: { onMake: (wish: Wish) => void }) {
  const total = useShoot((s) => s.view?.total ?? 0);
  return (
    <section>
      <h2 className="text-[15px] font-semibold">Marks into sidecars</h2>
      <p className="mt-1 max-w-prose text-ink2">
        XMP files beside the originals, for the editing program to read. What others wrote in them stays; the
        originals are not touched.
      </p>
      <div className="mt-3">
        <Button look="main" disabled={!total} onClick={() => onMake({ kind: "write-sidecars" })}>
          Plan the sidecars
        </Button>
      </div>
      <div className="mt-2">
        <ServerSwitch of="full_sidecar_names">
          new ones are called NAME.EXT.xmp, not NAME.xmp; those that are there keep their names
        </ServerSwitch>
      </div>
      <h3 className="mt-6 font-semibold">Into the files themselves</h3>
      <p className="mt-1 max-w-prose text-ink2">
        For programs that read nothing else: into JPEG, TIFF, DNG and HEIF. The picture data stay as they are,
        proven by checksum; captions and keywords go into an IPTC block too, where there is one. It can be
        taken back to the byte, as long as nobody else changes the files.
      </p>
      <div className="mt-3">
        <Button disabled={!total} onClick={() => onMake({ kind: "write-inside" })}>
          Plan writing into the files
        </Button>
      </div>
    </section>
  );
}
