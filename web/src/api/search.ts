/** Search over everything, asked of the server while somebody types. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import type { components } from "./generated/schema";

export type Found = components["schemas"]["FoundOut"];
export const SHORTEST = 2;

/** What has all of the words in its name; what was found before stays until there is an answer. */
export function useSearch(words: MaybeRefOrGetter<string>, project: MaybeRefOrGetter<string>) {
  const asked = computed(() => toValue(words).trim().toLowerCase());
  return useQuery({
    queryKey: computed(() => ["search", toValue(project), asked.value]),
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/search", {
          params: { query: { words: asked.value, project: toValue(project) } },
          signal,
        }),
      ),
    enabled: computed(() => asked.value.length >= SHORTEST),
    placeholderData: (before) => before,
    staleTime: 10_000,
  });
}
