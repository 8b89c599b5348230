import { ref, watch } from "vue";

import type { TextureMap } from "@/api/types";
import { t } from "@/texts/viewer";

import type { Look } from "./look";
import { describe, Values } from "./values";
import { type Standing, texelAt } from "./view";

interface Around {
  slug: string;
  map: TextureMap;
  colour: boolean;
  look: Look;
  preview?: string | null;
  other?: unknown;
}

/** The exact values of the texel under the pointer, as a line of text. size: of the picture, in texels. */
export function useTexelLine(
  props: Around,
  size: () => [number, number],
  standing: () => Standing,
  frameWidth: () => number,
) {
  const line = ref("");
  let values: Values | null = null;
  let pointer: { x: number; y: number } | null = null;

  /** The texel under the pointer, whichever tile or half of the window it is in. */
  function underPointer(): { x: number; y: number } | null {
    if (!pointer) return null;
    const middle = frameWidth() / 2;
    const isRight = props.look.comparison === "beside" && pointer.x >= middle;
    const [width, height] = size();
    const { repeat, half } = props.look;
    const x = isRight ? pointer.x - middle : pointer.x;
    const where = texelAt(standing(), x, pointer.y, width * repeat, height * repeat);
    if (!where) return null;
    const shift = half ? 0.5 : 0;
    return {
      x: (where.x + Math.floor(width * shift)) % width,
      y: (where.y + Math.floor(height * shift)) % height,
    };
  }
  function readOut(): void {
    if (props.preview) {
      line.value = t("previewAtScreenResolutionExactValues");
      return;
    }
    const where = underPointer();
    if (!where || !values) {
      line.value = "";
      return;
    }
    const texel = values.texel(where.x, where.y);
    const which = props.look.level || props.other ? t("ofTheMapItself") : "";
    line.value = `${which}${where.x}, ${where.y}   ${texel ? describe(texel, props.map, props.colour) : "…"}`;
  }
  function load(): void {
    const version = props.map.digest.slice(0, 16);
    values = new Values(`/api/projects/${props.slug}/maps/${props.map.id}/values?v=${version}`, readOut);
    readOut();
  }
  function point(at: { x: number; y: number } | null): void {
    pointer = at;
    readOut();
  }
  watch([() => props.map.digest, () => props.map.id], load, { immediate: true });
  return { line, point };
}
