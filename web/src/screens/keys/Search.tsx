import { type KeyboardEvent, useState } from "react";
import { isHeldAlone } from "../../keys/bindings";
import { keyName, pressed } from "../../keys/press";
import { Button, Kbd } from "../../ui/controls";

interface SearchProps {
  typed: string;
  press: string | null;
  onType: (text: string) => void;
  onPress: (press: string | null) => void;
}

/** By word, or by pressing a key. */
export function Search({ typed, press, onType, onPress }: SearchProps) {
  const [listening, setListening] = useState(false);
  const onKeyDown = (event: KeyboardEvent) => {
    if (!listening) return;
    event.preventDefault();
    const next = pressed(event.nativeEvent);
    if (isHeldAlone(next)) return;
    setListening(false);
    onPress(next);
  };
  return (
    <div className="flex items-center gap-2">
      <input
        type="search"
        aria-label="Find a command"
        placeholder="a word of what it does"
        value={typed}
        onChange={(event) => {
          onPress(null);
          onType(event.target.value);
        }}
        className="h-8 flex-1 rounded border border-line bg-pit px-2 placeholder:text-ink3"
      />
      <Button onClick={() => setListening(true)} onKeyDown={onKeyDown} onBlur={() => setListening(false)}>
        {listening ? "press it now …" : "or press a key"}
      </Button>
      {press && (
        <Button onClick={() => onPress(null)}>
          what is on <Kbd>{keyName(press)}</Kbd> ×
        </Button>
      )}
    </div>
  );
}
