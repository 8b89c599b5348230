/** A project's sets by their licence, with what the rules say of each. */
import type { Terms } from "@/api/rules";
import type { TextureSet } from "@/api/types";
import { t } from "@/texts/rules";

export interface LicenceGroup {
  licence: string;
  sets: TextureSet[];
  mark: "error" | "warning" | "fine";
  words: string;
  /** Whether the rules name it. */
  named: boolean;
}

function verdict(
  licence: string,
  sets: TextureSet[],
  all: Terms[],
): Pick<LicenceGroup, "mark" | "words" | "named"> {
  if (!licence) return { mark: "warning", words: t("licenceMissing"), named: true };
  const terms = all.find((one) => one.licence.toLowerCase() === licence.toLowerCase());
  if (!terms) return { mark: "error", words: t("refusedNotListedInTheRules"), named: false };
  if (terms.use === "refused") return { mark: "error", words: t("refused2"), named: true };
  const missing = terms.use === "credit" ? sets.filter((one) => !one.credit).length : 0;
  if (missing) return { mark: "warning", words: t("attributionMissingIn", { missing }), named: true };
  return {
    mark: "fine",
    words: terms.use === "credit" ? t("acceptedWithAttribution2") : t("accepted2"),
    named: true,
  };
}

/** Licences that differ in case alone are one. */
export function licenceGroups(sets: TextureSet[], terms: Terms[]): LicenceGroup[] {
  const groups = new Map<string, TextureSet[]>();
  for (const one of sets) {
    const key = one.licence.toLowerCase();
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  return [...groups.values()]
    .map((group) => ({
      licence: group[0]!.licence,
      sets: group,
      ...verdict(group[0]!.licence, group, terms),
    }))
    .sort((a, b) => a.licence.localeCompare(b.licence));
}
