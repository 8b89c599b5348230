import type { PlannedFile } from "@/api/types";
import { t } from "@/texts/deliveries";

const CHANNELS: Record<string, string> = { y: "grey", ya: t("greyAndAlpha") };
/** Of material files, by their ending. */
const FORMS: Record<string, string> = { glb: "glTF 2.0", mtlx: "MaterialX", usdz: "OpenUSD" };
const KINDS = ["set", "cast", "model", "ground"] as const;
const ORDER = ["new", "changed", "unchanged"];

export interface PlannedSet {
  /** Names the group: a set, a cast, a model and a patch of ground may be called alike. */
  key: string;
  /** The name of the set, cast, model or patch. */
  set: string;
  kind: (typeof KINDS)[number];
  files: PlannedFile[];
  /** "unchanged" where no file is new or changed. */
  status: string;
}

/** Planned files by set, cast and model; those with something new or changed come first. */
export function bySet(files: readonly PlannedFile[]): PlannedSet[] {
  const groups = new Map<string, PlannedFile[]>();
  const kindOf = (file: PlannedFile): PlannedSet["kind"] =>
    file.ground ? "ground" : file.model ? "model" : file.cast ? "cast" : "set";
  const keyOf = (file: PlannedFile) =>
    kindOf(file) === "set" ? file.set : `${kindOf(file)} ${file[kindOf(file)]}`;
  for (const file of files) groups.set(keyOf(file), [...(groups.get(keyOf(file)) ?? []), file]);
  return [...groups]
    .map(([key, own]) => ({
      key,
      set: own[0]![kindOf(own[0]!)],
      kind: kindOf(own[0]!),
      files: own,
      status: ORDER.find((status) => own.some((file) => file.status === status)) ?? "unchanged",
    }))
    .sort(
      (a, b) =>
        ORDER.indexOf(a.status) - ORDER.indexOf(b.status) ||
        KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind) ||
        a.set.localeCompare(b.set),
    );
}

/** How many files are new, changed and unchanged, in words. */
export function countsOf(files: readonly PlannedFile[]): string {
  const parts = ORDER.map(
    (status) => [files.filter((file) => file.status === status).length, status] as const,
  );
  const told = parts.filter(([count]) => count).map(([count, status]) => `${count} ${status}`);
  return t("filesOfWhich", { count: files.length, told: told.join(", ") });
}

/** Why files changed, in words. */
const REASONS = {
  source: t("anotherSource"),
  recipe: t("otherSteps"),
  master: t("anotherVersionOfItsMaster"),
  parameters: t("otherParameters"),
  target: t("theTargetAsksForOtherwise"),
  encoder: t("encodedAnotherWay"),
};
export const whyInWords = (why: readonly (keyof typeof REASONS)[]): string =>
  why.map((one) => REASONS[one]).join(", ");

const PICTURES = [".png", ".tga", ".exr", ".tif", ".tiff", ".dds", ".ktx2", ".jpg", ".jpeg"];
/** Whether a delivered file is a picture that can be drawn. */
export const isPicture = (path: string): boolean =>
  PICTURES.some((suffix) => path.toLowerCase().endsWith(suffix));

/** Container, channels, depth or format, colour space and green's direction of a planned file. */
export function formOf(file: PlannedFile): string {
  if (file.kind === "material") return t("gltf20Material");
  if (file.kind === "cast") return t("materialFileOf", { form: FORMS[file.path.split(".").pop()!] ?? "" });
  if (file.kind === "model") return t("modelWithItsMaps", { side: file.width });
  if (file.kind === "sidecar") return t("aTextOfTheTarget");
  const space = file.colour_space === "srgb" ? "sRGB" : "linear";
  const green = file.green ? `, ${file.green === "up" ? "Y+" : "Y-"}` : "";
  const channels = CHANNELS[file.channels] ?? file.channels.toUpperCase();
  return `${file.container.toUpperCase()} ${channels} ${file.format ?? t("bits", { bits: file.bits })}, ${space}${green}`;
}

/** A path in pieces between which a line may end. */
export const piecesOf = (path: string): string[] => path.split(/(?<=[/_-])/);
