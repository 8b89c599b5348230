/** Masters of the studio's library, and a project's casts. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";

type Schemas = components["schemas"];
export type Sheet = Schemas["SheetOut"];
export type SheetRow = Schemas["RowOut"];
export type SheetSlot = Schemas["SlotOut"];
export type SheetParameter = Schemas["ParameterOut"];
export type Chain = Schemas["ChainOut"];
export type Remark = Schemas["RemarkOut"];
export type Problem = Schemas["Problem"];
export type Shader = Schemas["ShaderOut"];
export type Cast = Schemas["CastOut"];
export type CastRow = Schemas["CastRow"];
export type Adoption = Schemas["AdoptionOut"];
export type Master = Schemas["MasterOut"];
export type MasterRow = Schemas["MasterRow"];
export type Impact = Schemas["Impact"];
export type Operation = Schemas["OperationOut"];
export type SurfaceInput = Schemas["InputOut"];
export type CalledFunction = Schemas["CalledFunction"];
/** What masters and functions have alike: versions, a draft, and who may change them. */
export type LibraryEntry = Pick<Master, "draft" | "may_write" | "versions" | "keepers"> &
  Partial<Pick<Master, "users">>;
type Slug = MaybeRefOrGetter<string>;
type Name = MaybeRefOrGetter<string>;

/** Documents, as their JSON schemas type them. */
export type SheetDocument = Schemas["SheetDocument"];
export type LayerDocument = Schemas["LayerDocument"];
export type MasterDocument = Schemas["MasterDocument"];
export type ParameterValue = Schemas["ParameterValue"];
export type Fill = Schemas["FillIn"];

export const materialKeys = {
  library: ["masters"] as const,
  master: (name: string) => ["masters", name] as const,
  project: (slug: string) => [...keys.project(slug), "materials"] as const,
};

export const useLibrary = () =>
  useQuery({ queryKey: materialKeys.library, queryFn: () => data(client.GET("/api/masters")) });

export const useMaster = (name: Name) =>
  useQuery({
    queryKey: computed(() => materialKeys.master(toValue(name))),
    queryFn: () => data(client.GET("/api/masters/{name}", { params: { path: { name: toValue(name) } } })),
  });

/** Masters that come with the product, to begin from. */
export const useReadyMasters = () =>
  useQuery({
    queryKey: ["masters", ".ready"],
    queryFn: () => data(client.GET("/api/masters/ready")),
    staleTime: Infinity,
  });

export const useSheetCatalogue = () =>
  useQuery({
    queryKey: ["masters", ".catalogue"],
    queryFn: () => data(client.GET("/api/masters/catalogue")),
    staleTime: Infinity,
  });

export const useSymptoms = () =>
  useQuery({
    queryKey: ["masters", ".symptoms"],
    queryFn: () => data(client.GET("/api/masters/symptoms")),
    staleTime: Infinity,
  });

export const useMaterials = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => materialKeys.project(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/materials", { params: { path: { slug: toValue(slug) } } })),
  });

export const useCast = (slug: Slug, id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => [...materialKeys.project(toValue(slug)), toValue(id)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/materials/{pk}", {
          params: { path: { slug: toValue(slug), pk: toValue(id) } },
        }),
      ),
    enabled: computed(() => toValue(id) > 0),
    placeholderData: (before) => (before?.id === toValue(id) ? before : undefined),
  });

export const useComparison = (slug: Slug, master: Name) =>
  useQuery({
    queryKey: computed(() => [...materialKeys.project(toValue(slug)), "compare", toValue(master)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/materials/masters/{name}/compare", {
          params: { path: { slug: toValue(slug), name: toValue(master) } },
        }),
      ),
  });

const READ = new Map<string, Promise<Schemas["ReadOut"]>>();
const MOST_READ = 40;

/** A sheet as the studio reads it: the same document always gives the same, so what was read lately is at hand. */
export function readSheet(document: MasterDocument): Promise<Schemas["ReadOut"]> {
  const key = JSON.stringify(document);
  const kept = READ.get(key) ?? data(client.POST("/api/masters/read", { body: document }));
  READ.delete(key);
  READ.set(key, kept);
  kept.catch(() => READ.delete(key));
  for (const oldest of READ.keys()) if (READ.size > MOST_READ) READ.delete(oldest);
  return kept;
}

/** The expression of a chain. functions: documents of those that its sheet carries. */
export const textOfChain = async (chain: Chain, functions: Schemas["FunctionDocument"][] = []) =>
  (await data(client.POST("/api/masters/chain", { body: { ...chain, functions } }))).text;

/** The address of what a set gives a slot. */
export function slotPicture(
  slug: string,
  set: number,
  slot: Pick<SheetSlot, "role" | "layout" | "colour_space">,
  version: number,
  taken: string | null = null,
  side = 512,
): string {
  const query = new URLSearchParams({
    set: String(set),
    expects: slot.role ?? slot.layout ?? "",
    space: slot.colour_space,
    side: String(side),
    v: String(version),
  });
  if (taken) query.set("taken", taken);
  return `/api/projects/${slug}/materials/picture?${query}`;
}
