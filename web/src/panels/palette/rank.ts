/** How well a name fits what is typed: a few letters of it, in their order. */

/** Null: it does not. The lower the better: letters that begin words, and follow each other, fit best. */
export function misfit(typed: string, name: string): number | null {
  const [wanted, there] = [plain(typed).replaceAll(" ", ""), plain(name)];
  let cost = 0;
  let at = -1;
  for (const letter of wanted) {
    const next = there.indexOf(letter, at + 1);
    if (next < 0) return null;
    const start = beginning(there, letter, at + 1);
    // A word that begins with it, a little further on, is what is meant.
    const found = next === at + 1 || start < 0 ? next : start;
    cost += found === at + 1 && at >= 0 ? 0 : isBeginning(there, found) ? 1 : 4;
    at = found;
  }
  return cost + there.length / 200;
}

function isBeginning(text: string, at: number): boolean {
  return at === 0 || !/[\p{L}\p{N}]/u.test(text[at - 1] ?? "");
}

function beginning(text: string, letter: string, from: number): number {
  for (let at = text.indexOf(letter, from); at >= 0; at = text.indexOf(letter, at + 1))
    if (isBeginning(text, at)) return at;
  return -1;
}

/** Without accents and case. */
export function plain(text: string): string {
  return text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
}
