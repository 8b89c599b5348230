import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "primeicons/primeicons.css";
import "./base.css";

import { VueQueryPlugin } from "@tanstack/vue-query";
import PrimeVue from "primevue/config";
import ConfirmationService from "primevue/confirmationservice";
import ToastService from "primevue/toastservice";
import Tooltip from "primevue/tooltip";
import { createApp, markRaw } from "vue";

import { queryClient } from "@/api/queryClient";

import App from "./App.vue";
import { router } from "./router";
import { passThrough } from "./passThrough";
import { applyTheme, preset } from "./theme";

applyTheme();
createApp(App)
  .use(router)
  .use(VueQueryPlugin, { queryClient })
  // PrimeVue watches its settings deeply; nothing in the preset's thousands of values ever changes.
  .use(PrimeVue, {
    pt: passThrough,
    theme: { preset: markRaw(preset), options: { darkModeSelector: ".dim", cssLayer: false } },
  })
  .use(ToastService)
  .use(ConfirmationService)
  .directive("tip", Tooltip)
  .mount("#app");
