/** Who did what and when, in a project or in the library. */
import { useInfiniteQuery, useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";

export type HistoryLine = components["schemas"]["HistoryLineOut"];
export type Difference = components["schemas"]["FieldDifference"];
/** What is asked for; empty texts ask for everything. */
export interface HistoryFilter {
  person: string;
  kind: string;
  about: string;
  text: string;
  since: string;
}

/** slug: of the project, or null for what all projects share. */
export const useHistory = (slug: MaybeRefOrGetter<string | null>, filter: MaybeRefOrGetter<HistoryFilter>) =>
  useInfiniteQuery({
    queryKey: computed(() => {
      const project = toValue(slug);
      return [...(project === null ? ["library"] : keys.project(project)), "history", toValue(filter)];
    }),
    queryFn: ({ pageParam }) => {
      const { since, ...rest } = toValue(filter);
      const query = { ...rest, ...(since ? { since } : {}), ...(pageParam ? { before: pageParam } : {}) };
      const project = toValue(slug);
      return data(
        project === null
          ? client.GET("/api/history", { params: { query } })
          : client.GET("/api/projects/{slug}/history", { params: { path: { slug: project }, query } }),
      );
    },
    initialPageParam: 0,
    getNextPageParam: (last) => (last.older ? last.lines.at(-1)?.id : undefined),
  });

export const useDifferences = (slug: MaybeRefOrGetter<string>, line: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "difference", toValue(line)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/history/{pk}", {
          params: { path: { slug: toValue(slug), pk: toValue(line) } },
        }),
      ),
    staleTime: Infinity,
  });
