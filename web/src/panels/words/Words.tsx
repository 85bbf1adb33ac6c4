import { useMemo, useState } from "react";
import { keyOf } from "../../keys/inForce";
import { activate, neighbour } from "../../shoot/moving";
import { useShoot } from "../../shoot/store";
import { sayWords, wordScope } from "../../shoot/words";
import { Kbd } from "../../ui/controls";
import { count, shortName } from "../../ui/format";
import { togglePanel, usePanels } from "../shown";
import { CAPTION } from "./commands";
import { Keywords } from "./Keywords";
import { Templates } from "./Templates";
import { TextField } from "./TextField";
import { useCommon } from "./useCommon";

const DEFAULT = "x-default";
const LANGUAGE = /^[A-Za-z]{1,8}(-[A-Za-z0-9]{1,8})*$/;

/** Words of the frames that the next key would act on: what they have in common, and where they differ. */
export function Words() {
  const shown = usePanels((s) => s.words && !s.bare);
  return shown ? <Panel /> : null;
}

function Panel() {
  const selection = useShoot((s) => s.selection);
  const active = useShoot((s) => s.active);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the scope follows from these
  const frameIds = useMemo(() => wordScope(useShoot.getState()), [selection, active]);
  const name = useShoot((s) => (frameIds.length === 1 ? s.frames.get(frameIds[0] ?? 0)?.name : undefined));
  const common = useCommon(frameIds);
  const [more, setMore] = useState<string[]>([]);
  const captions = [...(common?.captions ?? [{ language: DEFAULT, texts: undefined }])];
  for (const language of more)
    if (!captions.some((one) => one.language === language)) captions.push({ language, texts: undefined });
  // Other frames, other fields: what was typed for those before is theirs.
  const scope = frameIds.join();
  const field = { frameIds };
  return (
    <aside
      aria-label="Words"
      data-testid="words"
      className="flex w-72 shrink-0 flex-col gap-3 overflow-y-auto border-l border-edge bg-wall p-3 max-[900px]:fixed max-[900px]:top-24 max-[900px]:right-0 max-[900px]:bottom-9 max-[900px]:z-30"
    >
      <div className="flex items-center gap-2">
        <h2 className="font-semibold">Words</h2>
        <span className="min-w-0 flex-1 truncate text-right text-ink2" data-testid="words-scope">
          {frameIds.length > 1 ? count(frameIds.length, "frame") : shortName(name ?? "no frame")}
        </span>
        <button
          type="button"
          title="Hide the words"
          onClick={() => togglePanel("words")}
          className="flex min-h-6 items-center"
        >
          <Kbd>{keyOf("words")}</Kbd>
        </button>
      </div>
      {captions.map(({ language, texts }) => (
        <section key={`${scope} ${language}`}>
          <Title>
            {language === DEFAULT ? "Caption" : `Caption (${language})`}
            {language === DEFAULT && <AddLanguage onAdd={(one) => setMore((before) => [...before, one])} />}
          </Title>
          <TextField
            {...field}
            id={language === DEFAULT ? CAPTION : undefined}
            label={language === DEFAULT ? "Caption" : `Caption in ${language}`}
            rows={3}
            held={texts ?? (common && [{ text: null, frames: common.frames }])}
            onSay={(ids, text) => sayWords(ids, { captions: { [language]: text } })}
            onNext={frameIds.length === 1 ? onNext : undefined}
          />
        </section>
      ))}
      <section key={`${scope} headline`}>
        <Title>Headline</Title>
        <TextField
          {...field}
          label="Headline"
          held={common?.headline}
          onSay={(ids, headline) => sayWords(ids, { headline })}
        />
      </section>
      <section key={`${scope} keywords`}>
        <Title>Keywords</Title>
        <Keywords common={common} frameIds={frameIds} />
      </section>
      <section key={`${scope} creator`}>
        <Title>Creator</Title>
        <TextField
          {...field}
          label="Creator"
          held={common?.creator}
          onSay={(ids, text) =>
            sayWords(ids, {
              creators: text
                ? text
                    .split(";")
                    .map((one) => one.trim())
                    .filter(Boolean)
                : [],
            })
          }
        />
      </section>
      <section key={`${scope} copyright`}>
        <Title>Copyright</Title>
        <TextField
          {...field}
          label="Copyright"
          held={common?.copyright}
          onSay={(ids, copyright) => sayWords(ids, { copyright })}
        />
      </section>
      <Templates frameIds={frameIds} />
    </aside>
  );
}

/** On to the next frame, with the keyboard still in the caption. */
function onNext() {
  activate(neighbour(1), performance.now());
  requestAnimationFrame(() => document.getElementById(CAPTION)?.focus());
}

function Title({ children }: { children: React.ReactNode }) {
  return <h3 className="flex items-center pb-1 text-xs text-ink2">{children}</h3>;
}

function AddLanguage({ onAdd }: { onAdd: (language: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  if (text === null) {
    return (
      <button
        type="button"
        onClick={() => setText("")}
        className="ml-auto min-h-6 underline decoration-dotted underline-offset-2"
      >
        in another language …
      </button>
    );
  }
  const isLanguage = LANGUAGE.test(text);
  return (
    <form
      className="ml-auto flex items-center gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isLanguage) return;
        onAdd(text);
        setText(null);
      }}
    >
      <input
        // biome-ignore lint/a11y/noAutofocus: it was asked for just now
        autoFocus
        aria-label="Language, as de or pt-BR"
        placeholder="de, pt-BR"
        aria-invalid={text !== "" && !isLanguage}
        value={text}
        onChange={(event) => setText(event.target.value.trim())}
        onKeyDown={(event) => event.key === "Escape" && setText(null)}
        className="h-6 w-20 rounded border border-line bg-pit px-1 placeholder:text-ink3"
      />
      <button type="submit" disabled={!isLanguage} className="min-h-6 underline disabled:opacity-50">
        add
      </button>
    </form>
  );
}
