/** Comments, reviews, who has what open; one's own notices and what waits for one. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, onBeforeUnmount, onMounted, toValue, watch } from "vue";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { useChange } from "./useChange";

export type Comment = components["schemas"]["CommentOut"];
export type NewComment = Partial<components["schemas"]["NewComment"]> & { text: string };
export type Review = components["schemas"]["ReviewOut"];
export type ReviewStep = components["schemas"]["ReviewSteps"]["state"];
type Slug = MaybeRefOrGetter<string>;
const at = (slug: Slug) => ({ slug: toValue(slug) });

/** Comments about one thing, such as "sets:12". */
export const useComments = (slug: Slug, about: MaybeRefOrGetter<string>) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "comments", toValue(about)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/comments", {
          params: { path: at(slug), query: { about: toValue(about) } },
        }),
      ),
  });

/** How the review of each set stands, of those that are in review. */
export const useReviews = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "reviews"]),
    queryFn: () => data(client.GET("/api/projects/{slug}/reviews", { params: { path: at(slug) } })),
  });

export const useInbox = () => ({
  notices: useQuery({ queryKey: ["notices"], queryFn: () => data(client.GET("/api/notices")) }),
  waiting: useQuery({ queryKey: ["waiting"], queryFn: () => data(client.GET("/api/waiting")) }),
});

/** Each says what went wrong, and asks anew for what it changed. */
export function useTeamChanges(slug: Slug) {
  const { change, busy } = useChange(slug, () => [
    ...["comments", "reviews", "history"].map((part) => [...keys.project(toValue(slug)), part]),
    ["notices"],
    ["waiting"],
  ]);
  const one = (pk: number) => ({ params: { path: { ...at(slug), pk } } });
  const params = () => ({ params: { path: at(slug) } });
  return {
    busy,
    say: (said: NewComment) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/comments", {
            ...params(),
            body: { check: "", ...said },
          }),
        ),
      ),
    edit: (pk: number, text: string, seen: number) =>
      change(() =>
        data(
          client.PATCH("/api/projects/{slug}/comments/{pk}", {
            ...one(pk),
            body: { text },
            headers: { "If-Match": String(seen) },
          }),
        ),
      ),
    remove: (pk: number) => change(() => data(client.DELETE("/api/projects/{slug}/comments/{pk}", one(pk)))),
    close: (pk: number, closed: boolean) =>
      change(() =>
        data(client.PUT("/api/projects/{slug}/comments/{pk}/closed", { ...one(pk), body: { closed } })),
      ),
    review: (sets: number[], state: ReviewStep, reason = "") =>
      change(() =>
        data(client.POST("/api/projects/{slug}/reviews", { ...params(), body: { sets, state, reason } })),
      ),
    askForApproval: (wanted: boolean) =>
      change(() => data(client.PUT("/api/projects/{slug}/approval", { ...params(), body: { wanted } })), {
        undoable: true,
        stale: [keys.project(toValue(slug))],
      }),
    see: (pk: number | null) =>
      change(() =>
        pk === null
          ? data(client.PUT("/api/notices/seen"))
          : data(client.PUT("/api/notices/{pk}/seen", { params: { path: { pk } } })),
      ),
  };
}

const AGAIN_MS = 20_000;
const TAB = Math.random().toString(36).slice(2);
/** Who else has something open, while one has it open oneself: the server is told so every few seconds. */
export function usePresence(
  slug: Slug,
  about: MaybeRefOrGetter<string>,
  editing: MaybeRefOrGetter<boolean> = false,
) {
  let timer = 0;
  const say = () => {
    const body = { tab: TAB, about: toValue(about), editing: toValue(editing) };
    // Who cannot be told is not shown to others; nothing else depends on it.
    client.PUT("/api/projects/{slug}/presence", { params: { path: at(slug) }, body }).catch(() => undefined);
  };
  const leave = () => {
    client
      .DELETE("/api/projects/{slug}/presence/{tab}", {
        params: { path: { ...at(slug), tab: TAB } },
        keepalive: true,
      })
      .catch(() => undefined);
  };
  onMounted(() => {
    say();
    timer = window.setInterval(say, AGAIN_MS);
    window.addEventListener("pagehide", leave);
  });
  watch([() => toValue(about), () => toValue(editing)], say);
  onBeforeUnmount(() => {
    window.clearInterval(timer);
    window.removeEventListener("pagehide", leave);
    leave();
  });
  return useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "presence", toValue(about)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/presence", {
          params: { path: at(slug), query: { about: toValue(about) } },
        }),
      ),
    refetchInterval: AGAIN_MS,
  });
}
