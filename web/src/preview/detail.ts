/** How many pixels surfaces are drawn with: for slow machines fewer than the screen has. Kept in the browser. */
import { ref, watch } from "vue";

import { t } from "@/texts/preview";

const KEY = "surface-detail";
export const DETAILS = [
  { share: 1, title: t("full") },
  { share: 0.5, title: t("half") },
  { share: 0.25, title: t("quarter") },
];
const kept = Number(localStorage.getItem(KEY));
export const detail = ref(DETAILS.some((one) => one.share === kept) ? kept : 1);
watch(detail, (share) => localStorage.setItem(KEY, String(share)));
