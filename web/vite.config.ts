import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

const outDir = "../src/ironstone/service/static";

// The last tenth of the size costs ten times the time.
const quick = { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } };

/** Packs what is built once and for all: the service sends the packed file to a browser that takes it. */
const packed: Plugin = {
  name: "packed",
  apply: "build",
  closeBundle() {
    const folder = join(import.meta.dirname, outDir, "assets");
    for (const name of readdirSync(folder).filter((n) => /\.(js|css)$/.test(n))) {
      const content = readFileSync(join(folder, name));
      writeFileSync(join(folder, `${name}.br`), brotliCompressSync(content, quick));
      writeFileSync(join(folder, `${name}.gz`), gzipSync(content, { level: 9 }));
    }
  },
};

export default defineConfig({
  plugins: [react(), packed],
  build: { outDir, emptyOutDir: true, chunkSizeWarningLimit: 3000 },
  css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ["import", "if-function"] } } },
  server: { proxy: { "/api": "http://127.0.0.1:8737", "/r": "http://127.0.0.1:8737" } },
});
