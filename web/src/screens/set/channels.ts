import type { TextureMap } from "@/api/types";
import type { Channel } from "@/viewer/look";

/** The channels that a map can be looked at by; those it has not are off. */
export function channelsOf(map: TextureMap | null) {
  const letters = map?.channel ? "r" : (map?.channels ?? "");
  const single = letters === "y" || letters === "r";
  const over = {
    value: "over" as Channel,
    label: "Alpha over",
    off: !letters.includes("a"),
    title: "All channels, alpha over a checkerboard (X)",
  };
  const rest = (["rgb", "r", "g", "b", "a"] as Channel[]).map((value) => ({
    value,
    label: value === "rgb" ? "All" : value.toUpperCase(),
    title: value === "rgb" ? "All channels" : `Channel ${value.toUpperCase()} alone (${value.toUpperCase()})`,
    off: value !== "rgb" && (single || !(letters.includes(value) || (letters === "ya" && value === "r"))),
  }));
  return [...rest, over];
}
