/** House rules: documents with versions, names, formats tried, budgets, waivers. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, csrfToken, data, messageOf } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import type { TextureMap } from "./types";

type Schemas = components["schemas"];
export type Rule = Schemas["RuleOut"];
export type RuleKind = "target" | "layout" | "names" | "formats" | "licences" | "mirror" | "models";
export type Version = Schemas["VersionOut"];
export type Difference = Schemas["DifferenceOut"];
export type NameVerdict = Schemas["VerdictOut"];
export type FileVerdict = Schemas["FileVerdictOut"];
export type Budget = Schemas["BudgetOut"];
export type BudgetSet = Schemas["BudgetSet"];
export type BudgetFile = Schemas["BudgetFile"];
export type Trials = Schemas["TrialsOut"];
export type MapTrial = Schemas["MapTrial"];
export type Misreading = Schemas["MisreadOut"];
type Slug = MaybeRefOrGetter<string>;

/** Documents, as their JSON schemas type them. */
export type Source = Schemas["ChannelSource"];
export type Channels = Schemas["LayoutChannels"];
export type Letter = keyof Channels;
export type OutputDocument = Schemas["OutputDocument"];
export type MirrorDocument = Schemas["MirrorDocument"];
export type LayoutDocument = Schemas["LayoutDocument"];
export type TargetDocument = Schemas["TargetDocument"];
export type NamesDocument = Schemas["NamesDocument"];
export type FormatsDocument = Schemas["FormatsDocument"];
export type ModelsDocument = Schemas["ModelsDocument"];
export type LicencesDocument = Schemas["LicencesDocument"];
export type Terms = Schemas["LicenceTerms"];
export type Use = Terms["use"];
export type RuleBody = Rule["document"];
type Errors = Schemas["ErrorFigures"];

export const useRules = (slug: Slug, kind: MaybeRefOrGetter<RuleKind>) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "rules", toValue(kind)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/rules/{kind}", {
          params: { path: { slug: toValue(slug), kind: toValue(kind) } },
        }),
      ),
  });

export const useVersions = (slug: Slug, kind: RuleKind, name: MaybeRefOrGetter<string>) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "rules", kind, toValue(name), "versions"]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/rules/{kind}/{name}/versions", {
          params: { path: { slug: toValue(slug), kind, name: toValue(name) } },
        }),
      ),
  });

export const loadDifference = (slug: string, kind: RuleKind, name: string, before: number, after: number) =>
  data(
    client.GET("/api/projects/{slug}/rules/{kind}/{name}/difference", {
      params: { path: { slug, kind, name }, query: { before, after } },
    }),
  );

export const useNames = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "names"]),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/names", { params: { path: { slug: toValue(slug) } } })),
  });

export const tryNames = (slug: string, names: string[], rules: NamesDocument) =>
  data(
    client.POST("/api/projects/{slug}/names/try", {
      params: { path: { slug } },
      body: { names, rules },
    }),
  );

export const learnNames = (slug: string, names: string[] | null) =>
  data(client.POST("/api/projects/{slug}/names/learn", { params: { path: { slug } }, body: { names } }));

export const useBudget = (slug: Slug, target: MaybeRefOrGetter<string>) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "budget", toValue(target)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/budget", {
          params: { path: { slug: toValue(slug) }, query: { target: toValue(target) } },
        }),
      ),
    placeholderData: (before) => before,
  });

export const useMemoryBy = (slug: Slug, by: MaybeRefOrGetter<"targets" | "projects">) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "budget", "by", toValue(by)]),
    queryFn: () => {
      const params = { path: { slug: toValue(slug) } };
      return data(
        toValue(by) === "targets"
          ? client.GET("/api/projects/{slug}/budget/targets", { params })
          : client.GET("/api/projects/{slug}/budget/projects", { params }),
      );
    },
  });

export const useTrials = (slug: Slug, map: () => TextureMap, quality: MaybeRefOrGetter<string>) =>
  useQuery({
    queryKey: computed(() => [
      ...keys.project(toValue(slug)),
      "trials",
      map().id,
      map().digest,
      map().role,
      toValue(quality),
    ]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/maps/{pk}/trials", {
          params: { path: { slug: toValue(slug), pk: map().id }, query: { quality: toValue(quality) } },
        }),
      ),
  });

export const useMisreadings = (slug: Slug, map: () => TextureMap) =>
  useQuery({
    queryKey: computed(() => ["misread", toValue(slug), map().id, map().digest, map().role]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/maps/{pk}/misread", {
          params: { path: { slug: toValue(slug), pk: map().id } },
        }),
      ),
    staleTime: Infinity,
  });

/** The address of what a format made of a map, or of where its error lies. */
export function trialPictureOf(
  slug: string,
  map: TextureMap,
  format: string,
  quality: string,
  what: "decoded" | "error",
  wanted: { side?: number; channel?: string } = {},
): string {
  const query = new URLSearchParams({ quality, v: map.digest.slice(0, 16), r: map.role });
  if (wanted.side) query.set("side", String(wanted.side));
  if (wanted.channel) query.set("channel", wanted.channel);
  return `/api/projects/${slug}/maps/${map.id}/trials/${format}/${what}?${query}`;
}

/** The address of a map as a misreading leaves it. */
export function misreadPictureOf(
  slug: string,
  map: TextureMap,
  key: string,
  wanted: { side?: number; channel?: string } = {},
): string {
  const query = new URLSearchParams({ v: map.digest.slice(0, 16), r: map.role });
  if (wanted.side) query.set("side", String(wanted.side));
  if (wanted.channel) query.set("channel", wanted.channel);
  return `/api/projects/${slug}/maps/${map.id}/misread/${key}?${query}`;
}

/** What an output of a target that is not kept would look like; the caller frees the address. */
export async function triedOutput(
  slug: string,
  set: number,
  target: TargetDocument,
  output: string,
  channel: string,
  signal: AbortSignal,
): Promise<string> {
  const answer = await fetch(`/api/projects/${slug}/sets/${set}/try-output`, {
    method: "POST",
    signal,
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
    body: JSON.stringify({ target, output, channel, side: 320 }),
  });
  if (!answer.ok) throw new Error(messageOf(await answer.json().catch(() => null), answer.status));
  return URL.createObjectURL(await answer.blob());
}

const UNITS: Record<string, string> = { colour: "ΔE", normal: "°", mask: "" };

/** The numbers of an error in the order in which people read them. */
export function errorWords(error: Errors): string[] {
  const kind = error.kind;
  const number = (key: keyof Errors) => (typeof error[key] === "number" ? error[key] : null);
  const measures: Record<Errors["kind"], [keyof Errors, keyof Errors]> = {
    colour: ["delta_e", "delta_e_99"],
    normal: ["degrees", "degrees_99"],
    mask: ["step", "step_99"],
  };
  const digits = kind === "mask" ? 4 : 2;
  const found = measures[kind].map((key) => {
    const value = number(key);
    return value === null ? "" : `${value.toFixed(digits)}${UNITS[kind] ? ` ${UNITS[kind]}` : ""}`;
  });
  const psnr = number("psnr");
  if (error.psnr === undefined) return found;
  return [...found, psnr === null ? "equal" : `${psnr.toFixed(1)} dB`];
}

/** Bytes in MiB or KiB, for people. */
export function memoryWords(bytes: number): string {
  return bytes >= 1 << 20 ? `${(bytes / (1 << 20)).toFixed(2)} MiB` : `${(bytes / 1024).toFixed(1)} KiB`;
}
