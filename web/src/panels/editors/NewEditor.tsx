import { useState } from "react";
import { Button } from "../../ui/controls";
import { useSettings } from "../../ui/settings";
import type { useEditors } from "./useEditors";

interface Props {
  keep: ReturnType<typeof useEditors>["keep"];
  onKept: () => void;
}

/** A program that frames are to be opened in: its name, and the command that opens files in it. */
export function NewEditor({ keep, onKept }: Props) {
  const [name, setName] = useState("");
  const [command, setCommand] = useState("");
  const submit = () =>
    keep.mutate(
      { name: name.trim(), command },
      {
        onSuccess: () => {
          useSettings.setState({ editor: name.trim() });
          onKept();
        },
      },
    );
  const field = "h-7 rounded border border-line bg-pit px-2 placeholder:text-ink3";
  return (
    <form
      className="mt-3 max-w-xl rounded-lg border border-edge p-3"
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <div className="grid grid-cols-[90px_1fr] items-center gap-x-3 gap-y-2">
        <label htmlFor="editor-name" className="text-ink2">
          Name
        </label>
        <input
          id="editor-name"
          value={name}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
          className={field}
        />
        <label htmlFor="editor-command" className="text-ink2">
          Command
        </label>
        <input
          id="editor-command"
          value={command}
          maxLength={1000}
          spellCheck={false}
          placeholder={'"/path of/the program" {files}'}
          onChange={(event) => setCommand(event.target.value)}
          className={`${field} font-mono text-xs`}
        />
      </div>
      <p className="mt-2 text-xs text-ink2">
        {"{files}"} stands for the files. Quote what has spaces in it. The command runs at this machine, as
        you.
      </p>
      {keep.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {keep.error.message}
        </p>
      )}
      <div className="mt-2">
        <Button type="submit" disabled={!name.trim() || !command.trim()}>
          Keep the program
        </Button>
      </div>
    </form>
  );
}
