import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../src/ironstone/service/static", emptyOutDir: true, chunkSizeWarningLimit: 3000 },
  css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ["import", "if-function"] } } },
  server: { proxy: { "/api": "http://127.0.0.1:8737" } },
});
