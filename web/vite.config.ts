import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// `npm run dev` passes the service's address on: SLOW_RIBBON=http://127.0.0.1:8000 npm run dev
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 1200, assetsInlineLimit: 0 },
  server: {
    proxy: {
      "/api": {
        target: process.env.SLOW_RIBBON ?? "http://127.0.0.1:8000",
        changeOrigin: true,
        // The service takes changes only from its own pages, which these are, at another port.
        configure: (proxy) => proxy.on("proxyReq", (request) => request.removeHeader("origin")),
      },
    },
  },
});
