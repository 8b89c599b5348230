import type { Output } from "@/api/types";
import { t } from "@/texts/set";

const isPacked = (one: Output) => new Set(one.channels.map((channel) => channel.role)).size > 1;

/** The output to show: the one that was asked for, else the first that packs several roles, else the first. */
export const outputShown = (outputs: Output[], wanted: string): Output | null =>
  outputs.find((one) => one.path === wanted) ?? outputs.find(isPacked) ?? outputs[0] ?? null;

/** Size, container, depth or format, colour space and green's direction of an output, in one line. */
export function factsOf(one: Output): string {
  const parts = [
    `${one.width} × ${one.height} ${one.container.toUpperCase()}`,
    one.format ?? t("bits", { bits: one.bits }),
    one.colour_space === "srgb" ? "sRGB" : "linear",
  ];
  if (one.green) parts.push(one.green === "up" ? "Y+" : "Y-");
  return parts.join(", ");
}
