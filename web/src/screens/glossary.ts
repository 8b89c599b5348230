/** Words and what they mean; docs/glossary.md says the same. */
import { t } from "@/texts/start";
export const GLOSSARY: { title: string; words: [string, string][] }[] = [
  {
    title: t("wordsOfThisTool"),
    words: [
      [t("intake"), t("aBatchOfFilesTakenIn")],
      [t("role"), t("whatAMapIsForBase")],
      [t("textureSet"), t("theMapsOfOneSurfaceAlso")],
      [t("sourceMap"), t("aFileAsItCameIt")],
      [t("step"), t("oneRepairOrConversionOfA")],
      [t("habit"), t("howAFolderNamesItsFiles")],
      [t("finding"), t("somethingThatACheckMeasuredWith")],
      ["Waiver", t("aStatedReasonToAcceptA")],
      [t("layout"), t("whichSourceGoesIntoWhichChannel")],
      [t("target"), t("whatOneEngineOrPlatformWants")],
      [t("houseRules"), t("aProjectSOwnTargetsLayouts")],
      [t("master"), t("aMaterialWrittenOnceWithParameters")],
      [t("cast"), t("aMaterialMadeFromAMaster")],
      [t("sheet"), t("theRowsOfAMasterEach")],
      [t("model"), t("aMeshFileWithItsSlots")],
      [t("slot"), t("aPlaceOfAModelFor")],
      [t("delivery"), t("aDatedResultForOneTarget")],
      [t("misread"), t("aPreviewOfWhatHappensWhen")],
      [t("destination"), t("aPlaceThatDeliveriesAreKept")],
      [t("drift"), t("whatOthersDidToDelivered")],
      [t("mirror"), t("aStandInImporterThatReads")],
      [t("watchedFolder"), t("aFolderThatSomebodyExportsInto")],
      [t("scanLibrary"), t("aStoreOfSurfaces")],
      [t("versionOfAFile"), t("aContentThatAFileHad")],
    ],
  },
  {
    title: t("wordsOfTheTrade"),
    words: [
      [t("greenDirection"), t("whetherGreenInANormalMap")],
      [t("srgbLinear"), t("howAFileSNumbersAre")],
      [t("channelPacking"), t("severalMapsOfOneChannelEach")],
      [t("mipLevel"), t("aSmallerCopyOfATexture")],
      [t("texelDensity"), t("howManyTexelsCoverAMetre")],
      [t("bcEtcAstc"), t("familiesOfCompressedFormatsThatGraphics")],
    ],
  },
];
