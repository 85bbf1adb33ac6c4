/** What the parts of the dialog of labels share. */

export const COLOURS = ["orange", "sky", "green", "yellow", "blue", "vermilion", "purple", "black"] as const;

export const FIELD = "min-h-7 rounded border border-line bg-pit px-1.5 text-ink";
