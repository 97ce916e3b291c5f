import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** A component's class is named after its sheet, so that it can be read in the browser and found by tests. */
const scoped = (name: string, file: string) => `${file.split("/").at(-1)?.split(".")[0]}_${name}`;

export default defineConfig({
  plugins: [react()],
  css: { modules: { generateScopedName: scoped } },
  build: { target: "es2022", chunkSizeWarningLimit: 800 },
  server: { proxy: { "/api": { target: "http://127.0.0.1:8600", ws: true } } },
});
