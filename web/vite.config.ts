import { createHash } from "node:crypto";
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

const OUT = join(import.meta.dirname, "../winnow/api/static");
const SUMS = "SHA256SUMS";

/** Checksums of all that was built, as `sha256sum` writes them: the server looks at its start whether all is whole. */
const checksums: Plugin = {
  name: "checksums",
  apply: "build",
  closeBundle() {
    const files = readdirSync(OUT, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && entry.name !== SUMS)
      .map((entry) => join(entry.parentPath, entry.name));
    const lines = files.sort().map((file) => {
      const digest = createHash("sha256").update(readFileSync(file)).digest("hex");
      return `${digest}  ${file.slice(OUT.length + 1).replaceAll("\\", "/")}\n`;
    });
    writeFileSync(join(OUT, SUMS), lines.join(""));
  },
};

export default defineConfig({
  plugins: [react(), tailwindcss(), checksums],
  html: { cspNonce: "winnow-nonce" },
  build: {
    outDir: OUT,
    emptyOutDir: true,
    // Data URIs are refused by the content security policy.
    assetsInlineLimit: 0,
  },
});
