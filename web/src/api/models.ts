/** Models: mesh files, what their slots wear, and what is wrong with them. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/models";

import { ApiError, client, csrfToken, data, messageOf } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";
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
/** What a slot can wear. */
export type Wears = Schemas["WearsIn"];

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
export async function fetchMesh(slug: string, id: number, level = 0): Promise<ArrayBuffer> {
  const answer = await fetch(`${address(slug, id)}/mesh?level=${level}`);
  if (!answer.ok) throw new ApiError(answer.status, messageOf(await answer.json(), answer.status));
  return answer.arrayBuffer();
}

/** Send the files of a model together, each under its path. Throws an ApiError. */
async function send(url: string, files: { path: string; file: File }[], seen?: number): Promise<Model> {
  const form = new FormData();
  for (const { path, file } of files) {
    form.append("path", path);
    form.append("file", file, file.name);
  }
  const headers: Record<string, string> = { "X-CSRFToken": csrfToken() };
  if (seen !== undefined) headers["If-Match"] = `"${seen}"`;
  const answer = await fetch(url, { method: "POST", body: form, headers });
  const body = (await answer.json().catch(() => null)) as Model & { newest?: unknown };
  if (!answer.ok) throw new ApiError(answer.status, messageOf(body, answer.status), body?.newest);
  return body;
}

export function useModelChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [modelsKey(slug()), keys.jobs(slug())]);
  const to = (one: Model) => ({
    path: { slug: slug(), pk: one.id },
    header: { "If-Match": `"${one.revision}"` },
  });
  const patch = (one: Model, body: Schemas["ModelChange"], said: string) =>
    change(() => data(client.PATCH("/api/projects/{slug}/models/{pk}", { params: to(one), body })), {
      said: () => said,
      undoable: true,
    });
  return {
    busy,
    take: (files: { path: string; file: File }[]) =>
      change(() => send(`/api/projects/${slug()}/models`, files), {
        said: (made) => t("takenIn", { name: made.name }),
        undoable: true,
      }),
    again: (one: Model, files: { path: string; file: File }[]) =>
      change(() => send(`${address(slug(), one.id)}/models`, files, one.revision), {
        said: (made) => t("newVersionOf", { name: made.name }),
        undoable: true,
      }),
    bringBack: (one: Model, number: number) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/models/{pk}/versions/{number}", {
              params: { ...to(one), path: { slug: slug(), pk: one.id, number } },
            }),
          ),
        { said: () => t("versionIsBack", { number }), undoable: true },
      ),
    assign: (one: Model, wears: Record<string, Wears | null>) =>
      patch(one, { wears }, t("slotsAssigned", { count: Object.keys(wears).length })),
    rename: (one: Model, name: string) => patch(one, { name }, t("modelRenamed", { name })),
    callSlots: (one: Model, titles: Record<string, string>) =>
      patch(one, { titles }, t("slotsRenamed", { count: Object.keys(titles).length })),
    callByWorn: (one: Model) =>
      change(() => data(client.POST("/api/projects/{slug}/models/{pk}/call-by-worn", { params: to(one) })), {
        said: () => t("slotsCalledByWorn"),
        undoable: true,
      }),
    scale: (one: Model, metres: number) => patch(one, { metres }, t("scaleChanged")),
    split: (one: Model, slot: string, part: string) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/models/{pk}/split", { params: to(one), body: { slot, part } }),
          ),
        { said: () => t("splitOff", { part }), undoable: true },
      ),
    join: (one: Model, slot: string, part: string) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/models/{pk}/join", { params: to(one), body: { slot, part } }),
          ),
        { said: () => t("joined", { part }), undoable: true },
      ),
    measure: (one: Model) =>
      change(() =>
        data(client.POST("/api/projects/{slug}/models/{pk}/measure", { params: { path: to(one).path } })),
      ),
    fill: (one: Model, slot: number) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/models/{pk}/slots/{index}/fill", {
              params: { path: { slug: slug(), pk: one.id, index: slot } },
            }),
          ),
        { said: () => t("mapsFilled"), undoable: true },
      ),
    ownTextures: (one: Model) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/models/{pk}/own-textures", { params: { path: to(one).path } }),
          ),
        { said: () => t("takingItsTextures", { name: one.name }) },
      ),
    remove: (one: Model) =>
      change(() => data(client.DELETE("/api/projects/{slug}/models/{pk}", { params: to(one) })), {
        said: () => t("deleted", { name: one.name }),
        undoable: true,
      }),
  };
}
