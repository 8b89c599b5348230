import { useKeys } from "@/app/keys";
import type { Channel } from "@/viewer/look";
import { t } from "@/texts/set";

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
    does: t("channelAloneAndBack", { channel: channel.toUpperCase() }),
    run: () => doing.channel(channel),
  });
  useKeys(t("keysOfASetSPage"), [
    { key: "J ArrowRight", does: t("nextSet"), run: () => doing.goBy(1) },
    { key: "K ArrowLeft", does: t("previousSet"), run: () => doing.goBy(-1) },
    {
      key: "1 2 3 4 5 6 7 8 9",
      shown: "1…9",
      does: t("mapOfThatNumber"),
      run: (event) => doing.pick(Number(event.key) - 1),
    },
    letter("r"),
    letter("g"),
    letter("b"),
    letter("a"),
    { key: "X", does: t("alphaOverACheckerboardAndBack"), run: () => doing.channel("over") },
    { key: "Space", does: t("beforeAndAfter"), run: () => doing.before() },
    { key: "C", does: t("nextComparisonBeforeWipeBesideDifference"), run: () => doing.compare() },
    { key: "F", does: t("fitThePictureToTheWindow"), run: () => doing.fit() },
    { key: "+", does: t("zoomIn"), run: () => doing.zoom(2) },
    { key: "-", does: t("zoomOut"), run: () => doing.zoom(0.5) },
    { key: "U", does: t("moreTiles2348"), run: () => doing.tile() },
    { key: "N", does: t("moveByHalfATileTo"), run: () => doing.half() },
    { key: "[", does: t("darkerByAStop"), run: () => doing.expose(-1) },
    { key: "]", does: t("brighterByAStop"), run: () => doing.expose(1) },
    { key: ",", does: t("lessGamma"), run: () => doing.bend(1 / 1.25) },
    { key: ".", does: t("moreGamma"), run: () => doing.bend(1.25) },
    { key: "PageDown", shown: "PageDown", does: t("smallerMipLevel"), run: () => doing.level(1) },
    { key: "PageUp", shown: "PageUp", does: t("largerMipLevel"), run: () => doing.level(-1) },
    { key: "0", does: t("resetExposureGammaAndMipLevel"), run: () => doing.plain() },
    { key: "S", does: t("histogramAndClipping"), run: () => doing.statistics() },
    { key: "V", does: t("flatOrOnASurface"), run: () => doing.surface() },
    { key: "E", does: t("flatOrCompressed"), run: () => doing.formats() },
    { key: "P", does: t("flatOrThePackedResultLarge"), run: () => doing.packed() },
    { key: "H", does: t("tryTheFirstRemedyOnThe"), run: () => doing.firstRemedy() },
    { key: "Enter", does: t("applyTheStepsThatAreTried"), run: () => doing.apply() },
    {
      key: "Escape",
      does: t("discardTheStepsThatAreTried"),
      run: () => doing.back(),
    },
  ]);
}
