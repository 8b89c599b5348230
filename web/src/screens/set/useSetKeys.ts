import { useKeys } from "@/app/keys";
import type { Channel } from "@/viewer/look";

interface Doing {
  pick: (index: number) => void;
  goBy: (step: number) => void;
  channel: (channel: Channel) => void;
  before: () => void;
  compare: () => void;
  fit: () => void;
  zoom: (factor: number) => void;
  tile: () => void;
  half: () => void;
  expose: (stops: number) => void;
  bend: (factor: number) => void;
  level: (by: number) => void;
  plain: () => void;
  statistics: () => void;
  surface: () => void;
  formats: () => void;
  packed: () => void;
  firstRemedy: () => void;
  apply: () => void;
  back: () => void;
}

/** A set's page by keyboard. */
export function useSetKeys(doing: Doing): void {
  const letter = (channel: Channel) => ({
    key: channel.toUpperCase(),
    does: `Channel ${channel.toUpperCase()} alone, and back`,
    run: () => doing.channel(channel),
  });
  useKeys("A set's page", [
    { key: "J ArrowRight", does: "Next set", run: () => doing.goBy(1) },
    { key: "K ArrowLeft", does: "Previous set", run: () => doing.goBy(-1) },
    {
      key: "1 2 3 4 5 6 7 8 9",
      shown: "1…9",
      does: "Map of that number",
      run: (event) => doing.pick(Number(event.key) - 1),
    },
    letter("r"),
    letter("g"),
    letter("b"),
    letter("a"),
    { key: "X", does: "Alpha over a checkerboard, and back", run: () => doing.channel("over") },
    { key: "Space", does: "Before and after", run: () => doing.before() },
    { key: "C", does: "Next comparison: before, wipe, beside, difference", run: () => doing.compare() },
    { key: "F", does: "Fit the picture to the window", run: () => doing.fit() },
    { key: "+", does: "Zoom in", run: () => doing.zoom(2) },
    { key: "-", does: "Zoom out", run: () => doing.zoom(0.5) },
    { key: "U", does: "More tiles: 2, 3, 4, 8, 1", run: () => doing.tile() },
    { key: "N", does: "Move by half a tile, to see the seam", run: () => doing.half() },
    { key: "[", does: "Darker by a stop", run: () => doing.expose(-1) },
    { key: "]", does: "Brighter by a stop", run: () => doing.expose(1) },
    { key: ",", does: "Less gamma", run: () => doing.bend(1 / 1.25) },
    { key: ".", does: "More gamma", run: () => doing.bend(1.25) },
    { key: "PageDown", shown: "PageDown", does: "Smaller mip level", run: () => doing.level(1) },
    { key: "PageUp", shown: "PageUp", does: "Larger mip level", run: () => doing.level(-1) },
    { key: "0", does: "Reset exposure, gamma and mip level", run: () => doing.plain() },
    { key: "S", does: "Histogram and clipping", run: () => doing.statistics() },
    { key: "V", does: "Flat, or on a surface", run: () => doing.surface() },
    { key: "E", does: "Flat, or compressed", run: () => doing.formats() },
    { key: "P", does: "Flat, or the packed result large", run: () => doing.packed() },
    { key: "H", does: "Try the first remedy on the picture", run: () => doing.firstRemedy() },
    { key: "Enter", does: "Apply the steps that are tried", run: () => doing.apply() },
    {
      key: "Escape",
      does: "Discard the steps that are tried, back to the flat view, back to the sets",
      run: () => doing.back(),
    },
  ]);
}
