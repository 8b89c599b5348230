/** Ground: patches of land with layers, what is painted on them, and how strongly their tiles are seen to repeat. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/ground";

import { client, data, fetchBytes, sendForm } from "./client";
import type { components } from "./generated/schema";
import { keys, useCatalogue } from "./queries";
import { meantFor, turns } from "./turns";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
type Slug = MaybeRefOrGetter<string>;
export type GroundRow = Schemas["GroundRow"];
export type Ground = Schemas["GroundOut"];
export type GroundLayer = Schemas["GroundLayerOut"];
export type GroundTerm = Schemas["GroundTerm"];
export type GroundShape = Schemas["GroundShape"];
export type GroundStroke = Schemas["GroundStroke"];
export type GroundChange = Omit<Schemas["GroundChange"], "label">;
export type Repetition = Schemas["RepetitionOut"];

export const groundKey = (slug: string) => ["project", slug, "ground"] as const;

export const useGrounds = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => groundKey(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/grounds", { params: { path: { slug: toValue(slug) } } })),
  });

export const useGround = (slug: Slug, id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => [...groundKey(toValue(slug)), toValue(id)]),
    enabled: () => toValue(id) > 0,
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/grounds/{pk}", {
          params: { path: { slug: toValue(slug), pk: toValue(id) } },
        }),
      ),
  });

/** How strongly tiles are seen from a distance. of: key of the layer of which is told what would help. */
export const useRepetition = (
  slug: Slug,
  one: MaybeRefOrGetter<Ground | null>,
  distance: MaybeRefOrGetter<number>,
  of: MaybeRefOrGetter<string>,
  wanted: MaybeRefOrGetter<boolean>,
) =>
  useQuery({
    enabled: () => toValue(wanted) && toValue(one) !== null,
    queryKey: computed(() => [
      ...groundKey(toValue(slug)),
      toValue(one)?.id ?? 0,
      "repetition",
      toValue(one)?.picture ?? "",
      toValue(distance),
      toValue(of),
    ]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/grounds/{pk}/repetition", {
          params: {
            path: { slug: toValue(slug), pk: toValue(one)?.id ?? 0 },
            query: { distance: toValue(distance), layer: toValue(of) },
          },
        }),
      ),
    staleTime: Infinity,
  });

const address = (slug: string, id: number) => `/api/projects/${slug}/grounds/${id}`;
export const groundPicture = (slug: string, one: GroundRow, side = 256) =>
  `${address(slug, one.id)}/picture.png?side=${side}&v=${one.picture}`;
export const groundFile = (slug: string, id: number) => `${address(slug, id)}/ground.json`;

/** Metres of every texel, row by row from the north-west. Throws an ApiError. */
export const fetchHeights = async (slug: string, one: Ground): Promise<Float32Array> =>
  new Float32Array(await fetchBytes(`${address(slug, one.id)}/heights?v=${one.land}`));
/** For each layer what its rule says, then for each what was painted, 128 for nothing. Throws an ApiError. */
export const fetchRules = async (slug: string, one: Ground): Promise<Uint8Array> =>
  new Uint8Array(await fetchBytes(`${address(slug, one.id)}/rules?v=${one.laid}`));
/** What a layer looks like: 512 x 512 texels of colour and relief, then of normal, roughness and occlusion. */
export async function fetchTile(slug: string, one: Ground, at: number): Promise<[Uint8Array, Uint8Array]> {
  const state = one.layers[at]?.worn?.state ?? "";
  const all = new Uint8Array(await fetchBytes(`${address(slug, one.id)}/layers/${at}/tile?v=${state}`));
  const size = 4 * TILE_SIDE * TILE_SIDE;
  return [all.subarray(4, 4 + size), all.subarray(4 + size, 4 + 2 * size)];
}
export const TILE_SIDE = 512;

/** Layers as they are sent: with what they wear by its id. */
export const layersToSend = (layers: readonly GroundLayer[]): Schemas["GroundLayerIn"][] =>
  layers.map(({ worn, strokes: _, ...one }) => ({
    ...one,
    wears: worn ? { kind: worn.kind, id: worn.id } : null,
  }));

function sendHeight(url: string, file: File, low: number, high: number, seen: string): Promise<Ground> {
  const form = new FormData();
  form.append("file", file, file.name);
  form.append("low", String(low));
  form.append("high", String(high));
  return sendForm(url, form, seen);
}

/** What ground may have: sizes, how many layers and terms, what a term begins with. Nothing before it is loaded. */
export function useGroundKinds() {
  const catalogue = useCatalogue();
  return computed(() => catalogue.data.value?.ground);
}

export function useGroundChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [groundKey(slug())]);
  const inTurn = turns<Ground>();
  const told = (one: Ground, said: string | null, work: (now: Ground) => Promise<Ground>) =>
    change(() => inTurn(one, work), { said: () => said, undoable: said !== null });
  const path = (one: Ground) => ({ slug: slug(), pk: one.id });
  /** part: what changes, of the patch as it is when its turn comes. */
  const patch = (one: Ground, part: (now: Ground) => GroundChange, label: string) =>
    told(one, label, (now) =>
      data(
        client.PATCH("/api/projects/{slug}/grounds/{pk}", {
          params: { path: path(one), header: { "If-Match": meantFor(now) } },
          body: { ...part(now), label },
        }),
      ),
    );
  return {
    busy,
    add: (name: string) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/grounds", {
              params: { path: { slug: slug() } },
              body: { name },
            }),
          ),
        { said: (made) => t("added", { name: made.name }), undoable: true },
      ),
    patch,
    layers: (one: Ground, next: (layers: GroundLayer[]) => GroundLayer[], label: string) =>
      patch(one, (now) => ({ layers: layersToSend(next(now.layers)) }), label),
    height: (one: Ground, file: File, low: number, high: number) =>
      told(one, t("shapedBy", { file: file.name }), (now) =>
        sendHeight(`${address(slug(), one.id)}/height`, file, low, high, meantFor(now)),
      ),
    /** Told by the picture; the way back is the undo of the top bar, as for every stroke. */
    paint: (one: Ground, stroke: GroundStroke) =>
      told(one, null, () =>
        data(
          client.POST("/api/projects/{slug}/grounds/{pk}/strokes", {
            params: { path: path(one) },
            body: { stroke },
          }),
        ),
      ),
    clear: (one: Ground, layer: string) =>
      told(one, t("paintingCleared"), () =>
        data(
          client.DELETE("/api/projects/{slug}/grounds/{pk}/strokes", {
            params: { path: path(one), query: { layer } },
          }),
        ),
      ),
    remove: (one: Ground) =>
      change(
        () =>
          data(
            client.DELETE("/api/projects/{slug}/grounds/{pk}", {
              params: { path: path(one), header: { "If-Match": meantFor(one) } },
            }),
          ).then(() => true),
        { said: () => t("deleted", { name: one.name }), undoable: true, stale: [keys.project(slug())] },
      ),
  };
}
