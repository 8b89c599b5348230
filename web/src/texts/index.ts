/**
 * The page's texts, in one file for each area (en/<area>.json), so that wording is reviewed in one place.
 *
 *     import { t } from "@/texts/sets";
 *     t("setLicence");
 *     t("nSetsSelected", { count: 3 }); // of a text with two forms, "1 set | {count} sets", the one for this count
 *
 * An area comes with the screens that use it. Another language is another folder beside en; it is chosen before the
 * page starts, since some texts are read once.
 */
import { createI18n } from "vue-i18n";

const LOCALE = "en";
const i18n = createI18n({ legacy: false, locale: LOCALE, messages: { [LOCALE]: {} } });

/** The function that gives the texts of an area. ``count`` chooses between the forms of a text. */
export function textsOf<Messages extends Record<string, string>>(area: string, messages: Messages) {
  i18n.global.mergeLocaleMessage(LOCALE, { [area]: messages });
  return (key: keyof Messages & string, values: Record<string, unknown> = {}): string => {
    const name = `${area}.${key}`;
    return typeof values.count === "number"
      ? i18n.global.t(name, values, values.count)
      : i18n.global.t(name, values);
  };
}
