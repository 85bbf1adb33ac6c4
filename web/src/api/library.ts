/** Which data folder the server of this page keeps: what was marked here must reach no other. */

export const LIBRARY =
  document.querySelector<HTMLMetaElement>("meta[name=winnow-library]")?.content ?? "unknown";
