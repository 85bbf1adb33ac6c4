import { Slider } from "radix-ui";
import { changeSettings, useSettings } from "../../ui/settings";

/** Height of the pictures on the wall. */
export function SizeSlider() {
  const size = useSettings((s) => s.wallSize);
  return (
    <div className="flex items-center gap-2">
      <span className="text-ink2 max-[1180px]:sr-only">size</span>
      <Slider.Root
        min={70}
        max={420}
        step={10}
        value={[size]}
        onValueChange={([value]) => value !== undefined && changeSettings({ wallSize: value })}
        // After the mouse, the next key is a command again.
        onPointerUp={() => (document.activeElement as HTMLElement | null)?.blur()}
        className="relative flex h-6 w-24 touch-none max-[1180px]:w-16 items-center"
      >
        <Slider.Track className="relative h-1.5 w-full rounded-full bg-line">
          <Slider.Range className="absolute h-full rounded-full bg-ink3" />
        </Slider.Track>
        <Slider.Thumb aria-label="Thumbnail size" className="block h-4 w-2 rounded-xs bg-ink" />
      </Slider.Root>
    </div>
  );
}
