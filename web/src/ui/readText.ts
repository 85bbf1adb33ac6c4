/**
 * The text of a file, whatever program saved it: Unicode where its first bytes say so or all of it can be UTF-8, else
 * Windows-1252, as spreadsheets still save tables.
 */
export async function readText(file: Blob): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const [first, second] = bytes;
  if (first === 0xff && second === 0xfe) return new TextDecoder("utf-16le").decode(bytes);
  if (first === 0xfe && second === 0xff) return new TextDecoder("utf-16be").decode(bytes);
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder("windows-1252").decode(bytes);
  }
}
