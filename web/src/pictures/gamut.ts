/** The colours that canvases hold: those of the display, where it shows more than sRGB. */
export const GAMUT: PredefinedColorSpace = window.matchMedia("(color-gamut: p3)").matches
  ? "display-p3"
  : "srgb";
