/** What a command is. */

export type Section =
  | "Decide"
  | "Rate"
  | "Label"
  | "Move"
  | "Stage"
  | "Look"
  | "Group"
  | "Select"
  | "Filter"
  | "Go";

export interface Command {
  id: string;
  title: string;
  section: Section;
  /** Keys as `pressed` names them. The first is shown. */
  keys: string[];
  /** `at`: time stamp of the key, ms. */
  run: (at: number) => void;
  /** Called when the key is let go of, where it is held. */
  onEnd?: () => void;
  /** Runs again and again while the key is held down: right for moving, never for deciding. */
  repeats?: boolean;
}

/** A table of commands: some of them are not known before the application runs. */
export type Commands = (Command | (() => Command[]))[];
