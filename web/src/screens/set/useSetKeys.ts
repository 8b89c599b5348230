import { useKeys } from "@/app/keys";
import type { Channel } from "@/viewer/look";

interface Doing {
  pick: (index: number) => void;
  goBy: (step: number) => void;
  channel: (channel: Channel) => void;
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
  firstRemedy: () => void;
  keep: () => void;
  back: () => void;
}

/** The bench by keyboard. */
export function useSetKeys(doing: Doing): void {
  const letter = (channel: Channel) => ({
    key: channel.toUpperCase(),
    does: `Channel ${channel.toUpperCase()} alone, and back`,
    run: () => doing.channel(channel),
  });
  useKeys("Bench", [
    { key: "J ArrowRight", does: "Next set", run: () => doing.goBy(1) },
    { key: "K ArrowLeft", does: "Set before", run: () => doing.goBy(-1) },
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
    { key: "X", does: "Alpha over a chequer, and back", run: () => doing.channel("over") },
    { key: "C", does: "Compare with the source, or a mip with plain averaging", run: () => doing.compare() },
    { key: "F", does: "Frame the picture", run: () => doing.fit() },
    { key: "+", does: "Closer", run: () => doing.zoom(2) },
    { key: "-", does: "Farther", run: () => doing.zoom(0.5) },
    { key: "U", does: "More tiles: 2, 3, 4, 8, one", run: () => doing.tile() },
    { key: "N", does: "Move by half a tile, to see the seam", run: () => doing.half() },
    { key: "[", does: "Darker by a stop", run: () => doing.expose(-1) },
    { key: "]", does: "Brighter by a stop", run: () => doing.expose(1) },
    { key: ",", does: "Less gamma", run: () => doing.bend(1 / 1.25) },
    { key: ".", does: "More gamma", run: () => doing.bend(1.25) },
    { key: "M", does: "Smaller mip level", run: () => doing.level(1) },
    { key: "Shift+M", does: "Larger mip level", run: () => doing.level(-1) },
    { key: "0", does: "Exposure, gamma and mip as they are", run: () => doing.plain() },
    { key: "S", does: "Statistics: histogram and clipping", run: () => doing.statistics() },
    { key: "V", does: "Flat, or on a surface", run: () => doing.surface() },
    { key: "E", does: "Flat, or as formats encode it", run: () => doing.formats() },
    { key: "H", does: "Apply the first remedy", run: () => doing.firstRemedy() },
    { key: "Enter", does: "Keep the steps that are tried out", run: () => doing.keep() },
    { key: "Escape", does: "Discard the steps tried out, or back to the sets", run: () => doing.back() },
  ]);
}
