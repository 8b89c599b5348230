/** Models: mesh files, what their slots wear, and what is wrong with them. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/models";

import { client, data, fetchBytes, sendForm } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { meantFor, turns } from "./turns";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
type Slug = MaybeRefOrGetter<string>;
export type ModelRow = Schemas["ModelRow"];
export type Model = Schemas["ModelOut"];
export type ModelSlot = Schemas["ModelSlotOut"];
export type ModelFinding = Schemas["ModelFindingOut"];
export type Proposal = Schemas["ProposalOut"];
export type SlotProposals = Schemas["SlotProposals"];
export type WornSheet = Schemas["WornSheet"];
export type VertexStroke = Schemas["VertexStrokeDocument"];
export type Painted = Schemas["PaintedOut"];
/** What a slot can wear. */
export type Wears = Schemas["SlotWearsIn"];

/** Files that belong together, each under its path. */
export type ModelFiles = { path: string; file: File }[];
/** A model, and the state of it that a change was meant for. */
interface Seen {
  path: { slug: string; pk: number };
  header: { "If-Match": string };
}

const modelsKey = (slug: string) => ["project", slug, "models"] as const;

export const useModels = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => modelsKey(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/models", { params: { path: { slug: toValue(slug) } } })),
  });

export const useModel = (slug: Slug, id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => [...modelsKey(toValue(slug)), toValue(id)]),
    enabled: () => toValue(id) > 0,
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/models/{pk}", {
          params: { path: { slug: toValue(slug), pk: toValue(id) } },
        }),
      ),
  });

export const useProposals = (slug: Slug, id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => [...modelsKey(toValue(slug)), toValue(id), "proposals"]),
    enabled: () => toValue(id) > 0,
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/models/{pk}/proposals", {
          params: { path: { slug: toValue(slug), pk: toValue(id) } },
        }),
      ),
  });

/** What draws a cast or a set. */
export const fetchWorn = (slug: string, worn: Wears): Promise<WornSheet> =>
  data(
    client.GET("/api/projects/{slug}/models/worn/{kind}/{pk}", {
      params: { path: { slug, kind: worn.kind, pk: worn.id } },
    }),
  );

const address = (slug: string, id: number) => `/api/projects/${slug}/models/${id}`;
export const pictureOf = (slug: string, one: ModelRow, side = 256) =>
  `${address(slug, one.id)}/picture.png?side=${side}&v=${one.picture}`;
export const uvsOf = (slug: string, one: Model, slot: number, side = 512) =>
  `${address(slug, one.id)}/slots/${slot}/uvs.png?side=${side}&of=${one.revision}`;

/** The mesh as binary glTF. Throws an ApiError. */
export const fetchMesh = (slug: string, id: number, level = 0): Promise<ArrayBuffer> =>
  fetchBytes(`${address(slug, id)}/mesh?level=${level}`);

/** Send the files of a model together, each under its path. Throws an ApiError. */
function send(url: string, files: ModelFiles, seen?: string): Promise<Model> {
  const form = new FormData();
  for (const { path, file } of files) {
    form.append("path", path);
    form.append("file", file, file.name);
  }
  return sendForm(url, form, seen);
}

export function useModelChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [modelsKey(slug()), keys.jobs(slug())]);
  const path = (one: Model) => ({ slug: slug(), pk: one.id });
  const inTurn = turns<Model>();
  /** A change to one model, told and with the way back. */
  const changed = (one: Model, said: string, work: (params: Seen) => Promise<Model>) =>
    change(() => inTurn(one, (now) => work({ path: path(one), header: { "If-Match": meantFor(now) } })), {
      said: () => said,
      undoable: true,
    });
  const patch = (one: Model, body: Schemas["ModelChange"], said: string) =>
    changed(one, said, (params) => data(client.PATCH("/api/projects/{slug}/models/{pk}", { params, body })));
  return {
    busy,
    take: (files: ModelFiles) =>
      change(() => send(`/api/projects/${slug()}/models`, files), {
        said: (made) => t("takenIn", { name: made.name }),
        undoable: true,
      }),
    again: (one: Model, files: ModelFiles) =>
      changed(one, t("newVersionOf", { name: one.name }), (params) =>
        send(`${address(slug(), one.id)}/models`, files, params.header["If-Match"]),
      ),
    bringBack: (one: Model, number: number) =>
      changed(one, t("versionIsBack", { number }), ({ path, header }) =>
        data(
          client.POST("/api/projects/{slug}/models/{pk}/versions/{number}", {
            params: { path: { ...path, number }, header },
          }),
        ),
      ),
    assign: (one: Model, wears: Record<string, Wears | null>) =>
      patch(one, { wears }, t("slotsAssigned", { count: Object.keys(wears).length })),
    rename: (one: Model, name: string) => patch(one, { name }, t("modelRenamed", { name })),
    callSlots: (one: Model, titles: Record<string, string>) =>
      patch(one, { titles }, t("slotsRenamed", { count: Object.keys(titles).length })),
    callByWorn: (one: Model) =>
      changed(one, t("slotsCalledByWorn"), (params) =>
        data(client.POST("/api/projects/{slug}/models/{pk}/call-by-worn", { params })),
      ),
    scale: (one: Model, metres: number) => patch(one, { metres }, t("scaleChanged")),
    split: (one: Model, slot: string, part: string) =>
      changed(one, t("splitOff", { part }), (params) =>
        data(client.POST("/api/projects/{slug}/models/{pk}/split", { params, body: { slot, part } })),
      ),
    join: (one: Model, slot: string, part: string) =>
      changed(one, t("joined", { part }), (params) =>
        data(client.POST("/api/projects/{slug}/models/{pk}/join", { params, body: { slot, part } })),
      ),
    measure: (one: Model) =>
      change(() =>
        data(client.POST("/api/projects/{slug}/models/{pk}/measure", { params: { path: path(one) } })),
      ),
    fill: (one: Model, slot: number) =>
      changed(one, t("mapsFilled"), (params) =>
        data(
          client.POST("/api/projects/{slug}/models/{pk}/slots/{index}/fill", {
            params: { path: { ...params.path, index: slot } },
          }),
        ),
      ),
    /** One stroke; null when it was not kept. */
    paint: (one: Model, stroke: VertexStroke) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/models/{pk}/strokes", {
            params: { path: path(one) },
            body: { stroke },
          }),
        ),
      ),
    clearPainting: (one: Model, channel: string) =>
      change(
        () =>
          data(
            client.DELETE("/api/projects/{slug}/models/{pk}/strokes", {
              params: { path: path(one), query: { channel } },
            }),
          ),
        { said: () => t("paintingCleared"), undoable: true },
      ),
    ownTextures: (one: Model) =>
      change(
        () =>
          data(client.POST("/api/projects/{slug}/models/{pk}/own-textures", { params: { path: path(one) } })),
        { said: () => t("takingItsTextures", { name: one.name }) },
      ),
    remove: (one: Model) =>
      change(
        () =>
          data(
            client.DELETE("/api/projects/{slug}/models/{pk}", {
              params: { path: path(one), header: { "If-Match": meantFor(one) } },
            }),
          ),
        { said: () => t("deleted", { name: one.name }), undoable: true },
      ),
  };
}
