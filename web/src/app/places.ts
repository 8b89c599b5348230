/** The places of a project, in the order of the work, with the keys that lead to them. */
export const PLACES = [
  { name: "overview", label: "Overview", key: "Shift+O", icon: "pi pi-home" },
  { name: "intake", label: "Intake", key: "Shift+I", icon: "pi pi-inbox" },
  { name: "sets", label: "Sets", key: "Shift+T", icon: "pi pi-th-large" },
  { name: "materials", label: "Materials", key: "Shift+M", icon: "pi pi-palette" },
  { name: "deliveries", label: "Deliveries", key: "Shift+D", icon: "pi pi-send" },
  { name: "rules", label: "House rules", key: "Shift+R", icon: "pi pi-book" },
] as const;

/** Screens that belong to another's place. */
const WITHIN: Record<string, string> = { set: "sets", habit: "intake" };

export const placeOf = (route: unknown): string => WITHIN[String(route)] ?? String(route);
