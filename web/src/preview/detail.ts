/** How many pixels surfaces are drawn with: for slow machines fewer than the screen has. Kept in the browser. */
import { ref, watch } from "vue";

const KEY = "surface-detail";
export const DETAILS = [
  { share: 1, title: "full" },
  { share: 0.5, title: "half" },
  { share: 0.25, title: "quarter" },
];
const kept = Number(localStorage.getItem(KEY));
export const detail = ref(DETAILS.some((one) => one.share === kept) ? kept : 1);
watch(detail, (share) => localStorage.setItem(KEY, String(share)));
