import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "primeicons/primeicons.css";
import "./base.css";

import { QueryClient, VueQueryPlugin } from "@tanstack/vue-query";
import PrimeVue from "primevue/config";
import ConfirmationService from "primevue/confirmationservice";
import ToastService from "primevue/toastservice";
import Tooltip from "primevue/tooltip";
import { createApp } from "vue";

import App from "./App.vue";
import { router } from "./router";
import { passThrough } from "./passThrough";
import { applyTheme, preset } from "./theme";

applyTheme();
const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 30_000, retry: 1 } } });
createApp(App)
  .use(router)
  .use(VueQueryPlugin, { queryClient: queries })
  .use(PrimeVue, {
    pt: passThrough,
    theme: { preset, options: { darkModeSelector: ".dim", cssLayer: false } },
  })
  .use(ToastService)
  .use(ConfirmationService)
  .directive("tip", Tooltip)
  .mount("#app");
