/** What a suffix may be taught to mean, as a list to choose from. */
import type { HabitLine, RoleInfo } from "@/api/types";
import { t } from "@/texts/habit";

export interface Meaning {
  value: string;
  label: string;
}

export const meaningsOf = (roles: RoleInfo[]): Meaning[] => [
  ...roles.map((role) => ({ value: role.key, label: role.label })),
  { value: "pack", label: t("packedARoleInEachChannel") },
  { value: "none", label: t("noMapPreviewNotesSpare") },
];

/** Lines that want a word from somebody come first, then those with most files. */
export function inOrder(lines: HabitLine[]): HabitLine[] {
  const rank = (line: HabitLine) => (line.taught ? 3 : line.certain ? 2 : line.decided ? 1 : 0);
  return [...lines].sort((a, b) => rank(a) - rank(b) || b.files - a.files);
}

export function stateOf(line: HabitLine): { word: string; severity: "success" | "secondary" | "warn" } {
  if (line.taught) return { word: t("taught"), severity: "success" };
  if (line.certain) return { word: t("sure"), severity: "secondary" };
  return line.decided ? { word: t("guess"), severity: "warn" } : { word: t("undecided"), severity: "warn" };
}

export const suffixName = (line: { written: string; suffix: string }): string =>
  line.written || line.suffix || t("noSuffix");
