/** The places of a project, in the order of the work, with the keys that lead to them. */
import { t } from "@/texts/app";
export const PLACES = [
  { name: "overview", label: t("overview"), key: "Shift+O", icon: "pi pi-home" },
  { name: "intake", label: t("intake"), key: "Shift+I", icon: "pi pi-inbox" },
  { name: "sets", label: t("sets"), key: "Shift+T", icon: "pi pi-th-large" },
  { name: "materials", label: t("materials"), key: "Shift+M", icon: "pi pi-palette" },
  { name: "models", label: t("models"), key: "Shift+L", icon: "pi pi-box" },
  { name: "ground", label: t("ground"), key: "Shift+G", icon: "pi pi-map" },
  { name: "deliveries", label: t("deliveries"), key: "Shift+D", icon: "pi pi-send" },
  { name: "rules", label: t("houseRules"), key: "Shift+R", icon: "pi pi-book" },
] as const;

/** Screens that belong to another's place. */
const WITHIN: Record<string, string> = { history: "overview", set: "sets", habit: "intake" };

export const placeOf = (route: unknown): string => WITHIN[String(route)] ?? String(route);
