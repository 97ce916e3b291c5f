import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  test: { environment: "node", include: ["tests/**/*.test.{ts,tsx}"], restoreMocks: true, isolate: false },
});
