import { fileURLToPath, URL } from "node:url";
import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { "@": fileURLToPath(new URL("./src", import.meta.url)) } },
  // Parts of vue-i18n that this page does not use stay out of it.
  define: {
    __VUE_I18N_LEGACY_API__: false,
    __VUE_I18N_FULL_INSTALL__: false,
    __INTLIFY_PROD_DEVTOOLS__: false,
  },
  build: {
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: "three", test: /node_modules\/three/ },
            { name: "vue", test: /node_modules\/(vue|@vue|vue-router|@tanstack)/ },
            // What four screens and more share comes as one file: asking for forty small ones takes longer.
            { name: "shared", minShareCount: 4 },
          ],
        },
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8000" } },
  // A machine may be five times slower and busy with the other tests.
  test: { environment: "happy-dom", include: ["src/**/*.test.ts"], testTimeout: 60_000, hookTimeout: 60_000 },
});
