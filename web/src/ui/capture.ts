/** Capture data as photographers write it. */

import type { FrameDetails } from "../api/client";
import { shutter } from "./format";

type Exposure = Pick<FrameDetails, "shutter_s" | "aperture" | "iso">;

/** Shutter, aperture, ISO: what of them is known. */
export function exposureInWords({ shutter_s, aperture, iso }: Exposure): string[] {
  return [
    shutter_s ? shutter(shutter_s) : "",
    aperture ? `f/${Number(aperture.toFixed(1))}` : "",
    iso ? `ISO ${iso}` : "",
  ].filter(Boolean);
}

export function focalInWords({ focal_mm }: Pick<FrameDetails, "focal_mm">): string {
  return focal_mm ? `${Number(focal_mm.toFixed(1))} mm` : "";
}

/** The colour space of a file. */
export function spaceInWords({ space }: Pick<FrameDetails, "space">): string {
  return space ?? "colour space not told, shown as sRGB";
}
