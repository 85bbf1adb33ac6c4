import { type ReactNode, useRef } from "react";
import { Button } from "./controls";
import { readText } from "./readText";

interface Props {
  /** What is read, for who cannot see the button. */
  label: string;
  accept: string;
  children: ReactNode;
  /** Told what stands in the file. */
  onText?: (text: string, name: string) => void;
  /** Told which file was chosen. */
  onFile?: (file: File) => void;
}

/** A button that asks for a file and reads it. */
export function FileButton({ label, accept, children, onText, onFile }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()}>{children}</Button>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="hidden"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onFile?.(file);
          if (onText && file) void readText(file).then((text) => onText(text, file.name));
          event.target.value = "";
        }}
      />
    </>
  );
}
