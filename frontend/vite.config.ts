import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    chunkSizeWarningLimit: 2000,
    outDir: "../dynaface/page",
    emptyOutDir: true,
    rollupOptions: { input: ["index.html", "receiver.html"] },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8460" } },
});
