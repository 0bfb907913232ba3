import { cpSync, mkdirSync } from "node:fs";
import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { buildSync } from "esbuild";
import { defineConfig } from "vite";

// libvips starts threads from its own file, so it is served beside the application, not bundled into it
mkdirSync("build/public/vips", { recursive: true });
for (const f of ["vips-es6.js", "vips.wasm"]) cpSync(`node_modules/wasm-vips/lib/${f}`, `build/public/vips/${f}`);
cpSync("app/icon.svg", "build/public/icon.svg");
// at the root, so that it may answer for every page
buildSync({ entryPoints: ["app/isolation/serviceWorker.ts"], outfile: "build/public/isolate.js", bundle: true, minify: true });

export default defineConfig({
  publicDir: "build/public",
  plugins: [tailwindcss(), reactRouter()],
  worker: { format: "es" },
  build: { target: "es2022", chunkSizeWarningLimit: 1200 },
  server: { headers: { "Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Embedder-Policy": "require-corp" } },
});
