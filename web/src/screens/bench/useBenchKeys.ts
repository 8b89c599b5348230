import { useKeys } from "@/app/keys";
import type { Channel } from "@/viewer/renderer";

interface Doing {
  pick: (index: number) => void;
  goBy: (step: number) => void;
  channel: (channel: Channel) => void;
  compare: () => void;
  fit: () => void;
  zoom: (factor: number) => void;
  tile: () => void;
  surface: () => void;
  firstRemedy: () => void;
  back: () => void;
}

/** The bench by keyboard. */
export function useBenchKeys(doing: Doing): void {
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
    { key: "C", does: "Compare with the source: wipe, difference, off", run: () => doing.compare() },
    { key: "F", does: "Frame the picture", run: () => doing.fit() },
    { key: "+", does: "Closer", run: () => doing.zoom(2) },
    { key: "-", does: "Farther", run: () => doing.zoom(0.5) },
    { key: "U", does: "Tile 2 by 2, and back", run: () => doing.tile() },
    { key: "V", does: "Flat, or on a surface", run: () => doing.surface() },
    { key: "H", does: "Apply the first remedy", run: () => doing.firstRemedy() },
    { key: "Escape", does: "Back to the roll", run: () => doing.back() },
  ]);
}
