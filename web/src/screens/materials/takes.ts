import type { FunctionDocument, FunctionInput } from "@/api/functions";
import { t } from "@/texts/materials";

type Takes = FunctionInput["takes"];

/** What an input of a function may take. */
export const TAKES: { value: Takes; label: string }[] = [
  { value: "number", label: t("takesNumber") },
  { value: "vector2", label: t("takesVector2") },
  { value: "vector3", label: t("takesVector3") },
  { value: "vector4", label: t("takesVector4") },
  { value: "map", label: t("takesMap") },
];
export const takesWords = (takes: Takes): string => TAKES.find((one) => one.value === takes)!.label;

/** A function that gives what flows into it. Its name is made of the title. */
export const emptyFunction = (title: string): FunctionDocument => ({
  format: "fair-texel/function",
  version: 1,
  name: nameOf(title),
  title,
  inputs: [{ name: "value", takes: "vector3" }],
  result: "value",
});

function nameOf(title: string): string {
  const words = title.toLowerCase().match(/[a-z0-9]+/g) ?? [];
  const name = words.join("_").slice(0, 40);
  return /^[a-z]/.test(name) ? name : `f_${name}`.slice(0, 40);
}
