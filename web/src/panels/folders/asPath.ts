/**
 * The path that is meant by what was typed or pasted: file managers copy paths in quotes, or as addresses (RFC 8089).
 */
export function asPath(typed: string): string {
  const text = typed.trim().replace(/^(["'])(.*)\1$/, "$2");
  if (!/^file:\/\//i.test(text)) return text;
  try {
    const { host, pathname } = new URL(text);
    const path = decodeURIComponent(pathname);
    return host ? `//${host}${path}` : path.replace(/^\/(?=[a-z]:)/i, "");
  } catch {
    return text;
  }
}
