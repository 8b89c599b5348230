/** Addresses that are told what happens in a project, and what they answered. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { useChange } from "./useChange";

type Slug = MaybeRefOrGetter<string>;
export type Webhook = components["schemas"]["WebhookOut"];
export type WebhookEvent = components["schemas"]["NewWebhook"]["events"][number];
const key = (slug: Slug) => [...keys.project(toValue(slug)), "webhooks"];
const at = (slug: Slug) => ({ slug: toValue(slug) });

export const useWebhooks = (slug: Slug, wanted: () => boolean) =>
  useQuery({
    queryKey: computed(() => key(slug)),
    queryFn: () => data(client.GET("/api/projects/{slug}/webhooks", { params: { path: at(slug) } })),
    enabled: computed(wanted),
  });

/** The newest messages of one, asked for again while they are shown: answers come by themselves. */
export const useSendings = (slug: Slug, pk: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => [...key(slug), toValue(pk)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/webhooks/{pk}/sendings", {
          params: { path: { ...at(slug), pk: toValue(pk) } },
        }),
      ),
    refetchInterval: 5000,
  });

export function useWebhookChanges(slug: Slug) {
  const { change } = useChange(slug, () => [key(slug)]);
  const one = (pk: number) => ({ params: { path: { ...at(slug), pk } } });
  return {
    add: (name: string, address: string, events: WebhookEvent[]) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/webhooks", {
            params: { path: at(slug) },
            body: { name, address, events },
          }),
        ),
      ),
    pause: (pk: number, paused: boolean) =>
      change(() =>
        data(client.PATCH("/api/projects/{slug}/webhooks/{pk}", { ...one(pk), body: { paused } })),
      ),
    remove: (pk: number) => change(() => data(client.DELETE("/api/projects/{slug}/webhooks/{pk}", one(pk)))),
    again: (pk: number, number: number) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/webhooks/{pk}/sendings/{number}/again", {
            params: { path: { ...at(slug), pk, number } },
          }),
        ),
      ),
  };
}
