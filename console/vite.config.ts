import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { target: "es2022", manifest: true, assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://localhost:7420", "/sign-in": "http://localhost:7420" } },
});
