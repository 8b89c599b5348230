/** What a suffix may be taught to mean, as a list to choose from. */
import type { HabitLine, RoleInfo } from "@/api/types";

export interface Meaning {
  value: string;
  label: string;
}

export const meaningsOf = (roles: RoleInfo[]): Meaning[] => [
  ...roles.map((role) => ({ value: role.key, label: role.label })),
  { value: "pack", label: "Packed: a role in each channel …" },
  { value: "none", label: "No map (preview, notes, spare)" },
];

/** Lines that want a word from somebody come first, then those with most files. */
export function inOrder(lines: HabitLine[]): HabitLine[] {
  const rank = (line: HabitLine) => (line.taught ? 3 : line.certain ? 2 : line.decided ? 1 : 0);
  return [...lines].sort((a, b) => rank(a) - rank(b) || b.files - a.files);
}

export function stateOf(line: HabitLine): { word: string; severity: "success" | "secondary" | "warn" } {
  if (line.taught) return { word: "taught", severity: "success" };
  if (line.certain) return { word: "sure", severity: "secondary" };
  return line.decided ? { word: "guess", severity: "warn" } : { word: "undecided", severity: "warn" };
}

export const suffixName = (line: { written: string; suffix: string }): string =>
  line.written || line.suffix || "no suffix";
