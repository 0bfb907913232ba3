import { cpSync, mkdirSync } from "node:fs";
import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

// these start threads from their own files, so they are served beside the application, not bundled
// into it
for (const [from, to, files] of [
  ["wasm-vips/lib", "vips", ["vips-es6.js", "vips.wasm", "vips-heif.wasm", "vips-jxl.wasm"]],
  ["libraw-wasm/dist", "libraw", ["libraw.js", "libraw.wasm"]],
] as const) {
  mkdirSync(`build/public/${to}`, { recursive: true });
  for (const f of files) cpSync(`node_modules/${from}/${f}`, `build/public/${to}/${f}`);
}
cpSync("app/icon.svg", "build/public/icon.svg");
cpSync("app/offline/installed", "build/public", { recursive: true });

export default defineConfig({
  publicDir: "build/public",
  plugins: [tailwindcss(), reactRouter()],
  worker: { format: "es" },
  build: { target: "es2022", chunkSizeWarningLimit: 1200 },
  server: {
    headers: {
      "Cross-Origin-Opener-Policy": "same-origin",
      "Cross-Origin-Embedder-Policy": "require-corp",
    },
  },
});
