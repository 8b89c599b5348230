import type { TextureMap } from "@/api/types";
import type { Channel } from "@/viewer/look";
import { t } from "@/texts/set";

/** The channels that a map can be looked at by; those it has not are off. */
export function channelsOf(map: TextureMap | null) {
  const letters = map?.channel ? "r" : (map?.channels ?? "");
  const single = letters === "y" || letters === "r";
  const over = {
    value: "over" as Channel,
    label: t("alphaOver"),
    off: !letters.includes("a"),
    title: t("allChannelsAlphaOverACheckerboard"),
  };
  const rest = (["rgb", "r", "g", "b", "a"] as Channel[]).map((value) => ({
    value,
    label: value === "rgb" ? t("all") : value.toUpperCase(),
    title: value === "rgb" ? t("allChannels") : t("channelAlone", { channel: value.toUpperCase() }),
    off: value !== "rgb" && (single || !(letters.includes(value) || (letters === "ya" && value === "r"))),
  }));
  return [...rest, over];
}
