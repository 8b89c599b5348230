/** Places that deliveries go to: what lies there, what others changed, and bringing a delivery. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/deliveries";

import { client, data } from "./client";
import { changed } from "./conflicts";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
type Slug = MaybeRefOrGetter<string>;
export type Destination = Schemas["DestinationOut"];
export type Drift = Schemas["DriftOut"];
export type Transfer = Schemas["TransferOut"];
export type NewDestination = Schemas["NewDestination"];
export type ComparedFile = Schemas["ComparedFile"];
export type Mirrored = Schemas["MirroredOut"];
export type Difference = Schemas["MirrorDifference"];
export type Choice = "overwrite" | "keep";

const destinationsKey = (slug: string) => ["project", slug, "destinations"] as const;

export const useDestinations = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => destinationsKey(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/destinations", { params: { path: { slug: toValue(slug) } } })),
  });

/** The folders and buckets that the server delivers to. */
export const useAllowedPlaces = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...destinationsKey(toValue(slug)), "allowed"]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/destinations/allowed", {
          params: { path: { slug: toValue(slug) } },
        }),
      ),
    staleTime: Infinity,
  });

/** delivery: the number of what is going to be brought there; without one, what others changed is only looked at. */
export const useDrift = (
  slug: Slug,
  id: MaybeRefOrGetter<number>,
  delivery: MaybeRefOrGetter<number | null>,
) =>
  useQuery({
    queryKey: computed(() => [
      ...destinationsKey(toValue(slug)),
      toValue(id),
      "drift",
      toValue(delivery) ?? "look",
    ]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/destinations/{pk}/drift", {
          params: {
            path: { slug: toValue(slug), pk: toValue(id) },
            query: { delivery: toValue(delivery) },
          },
        }),
      ),
    enabled: computed(() => toValue(id) > 0),
  });

/** What an engine would make of a delivery, or of what lies at a destination. */
export const useMirror = (slug: Slug, of: MaybeRefOrGetter<{ delivery: number } | { destination: number }>) =>
  useQuery({
    queryKey: computed(() => [...keys.deliveries(toValue(slug)), "mirror", toValue(of)]),
    queryFn: () => {
      const asked = toValue(of);
      return "delivery" in asked
        ? data(
            client.GET("/api/projects/{slug}/deliveries/{number}/mirror", {
              params: { path: { slug: toValue(slug), number: asked.delivery } },
            }),
          )
        : data(
            client.GET("/api/projects/{slug}/destinations/{pk}/mirror", {
              params: { path: { slug: toValue(slug), pk: asked.destination } },
            }),
          );
    },
  });

export const useComparedDeliveries = (
  slug: Slug,
  before: MaybeRefOrGetter<number>,
  now: MaybeRefOrGetter<number>,
) =>
  useQuery({
    queryKey: computed(() => [...keys.deliveries(toValue(slug)), "compare", toValue(before), toValue(now)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/deliveries/compare", {
          params: {
            path: { slug: toValue(slug) },
            query: { old: toValue(before), new: toValue(now) },
          },
        }),
      ),
  });

/** The address of a file of a past delivery, as a picture. */
export const deliveredPicture = (slug: string, number: number, path: string, side = 192, misread = "") =>
  `/api/projects/${slug}/deliveries/${number}/picture?${new URLSearchParams({ path, side: String(side), ...(misread ? { misread } : {}) })}`;

/** The address of a file as it lies at a destination; digest: of it, so that another one is asked for anew. */
export const pictureThere = (slug: string, id: number, path: string, digest: string | null, side = 192) =>
  `/api/projects/${slug}/destinations/${id}/picture?${new URLSearchParams({ path, side: String(side), v: digest ?? "" })}`;

export function useDestinationChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [destinationsKey(slug()), keys.deliveries(slug())]);
  const path = () => ({ slug: slug() });
  const to = (pk: number) => ({ path: { ...path(), pk } });
  return {
    busy,
    add: (given: NewDestination) =>
      change(
        () =>
          data(client.POST("/api/projects/{slug}/destinations", { params: { path: path() }, body: given })),
        { said: (made) => t("destinationAdded", { name: made.name }) },
      ),
    /** seen: the destination as it was when it began to be edited. */
    edit: (seen: Destination, given: Pick<NewDestination, "name" | "place" | "target">) =>
      change(() =>
        changed<Destination, Destination>({
          key: `destination ${seen.id}`,
          seen,
          revision: (one) => one.revision,
          same: (before, now) =>
            before.name === now.name && before.place === now.place && before.target === now.target,
          about: seen.name,
          mine: `${given.name}: ${given.place}`,
          theirs: (now) => `${now.name}: ${now.place}`,
          send: (headers) =>
            data(
              client.PATCH("/api/projects/{slug}/destinations/{pk}", {
                params: to(seen.id),
                body: given,
                headers,
              }),
            ),
        }),
      ),
    remove: (one: Destination) =>
      change(() => data(client.DELETE("/api/projects/{slug}/destinations/{pk}", { params: to(one.id) })), {
        said: () => t("destinationRemoved", { name: one.name }),
      }),
    bring: (one: Destination, delivery: number, choices: Record<string, Choice> = {}) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/destinations/{pk}/bring", {
              params: to(one.id),
              body: { delivery, choices },
            }),
          ),
        { said: () => t("bringing", { number: delivery, name: one.name }) },
      ),
    takeIn: (one: Destination, paths: string[]) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/destinations/{pk}/take", {
              params: to(one.id),
              body: { paths },
            }),
          ),
        { said: () => t("takenIn", { count: paths.length }) },
      ),
  };
}
