/** Who may do what in a project; one's own password, sessions and tokens. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { changed } from "./conflicts";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { useChange } from "./useChange";

type Slug = MaybeRefOrGetter<string>;
export type Member = components["schemas"]["MemberOut"];
export type Token = components["schemas"]["TokenRow"];

export const RIGHTS = [
  { value: "look", label: t("look") },
  { value: "prepare", label: t("prepareAndDeliver") },
  { value: "rules", label: t("setTheRules") },
  { value: "manage", label: t("manageMembers") },
] as const;
export type Right = (typeof RIGHTS)[number]["value"];

/** Whether somebody whose right is ``own`` may what needs ``wanted``. */
export function may(own: string | undefined, wanted: Right): boolean {
  const rank = (right: string) => RIGHTS.findIndex((one) => one.value === right);
  return own !== undefined && rank(own) >= rank(wanted);
}

export const rightWords = (right: string) => RIGHTS.find((one) => one.value === right)?.label ?? right;

export const useMembers = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "members"]),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/members", { params: { path: { slug: toValue(slug) } } })),
  });

export const useLog = (slug: Slug, wanted: () => boolean) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "log"]),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/log", { params: { path: { slug: toValue(slug) } } })),
    enabled: computed(wanted),
  });

export const useInvitations = (slug: Slug, wanted: () => boolean) =>
  useQuery({
    queryKey: computed(() => [...keys.project(toValue(slug)), "invitations"]),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/invitations", { params: { path: { slug: toValue(slug) } } })),
    enabled: computed(wanted),
  });

export const useSessions = () =>
  useQuery({ queryKey: ["sessions"], queryFn: () => data(client.GET("/api/sessions")) });

export const useTokens = () =>
  useQuery({ queryKey: ["tokens"], queryFn: () => data(client.GET("/api/tokens")) });

/** Each says what went wrong, and asks anew for what it changed. */
export function usePeopleChanges(slug: Slug) {
  const { change: make } = useChange(slug, () => [
    ...["members", "log", "invitations"].map((part) => [...keys.project(toValue(slug)), part]),
    ["tokens"],
    ["sessions"],
  ]);
  const change = <T>(work: Promise<T>, said?: (made: T) => string) => make(() => work, { said });
  const path = (name: string) => ({ path: { slug: toValue(slug), name } });

  return {
    setRight: (name: string, right: string, seen?: Member) =>
      change(
        changed<Member, Member>({
          key: `member ${toValue(slug)} ${name}`,
          seen,
          revision: (one) => one.revision,
          same: (before, now) => before.right === now.right,
          about: name,
          mine: rightWords(right),
          theirs: (now) => rightWords(now.right),
          send: (headers) =>
            data(
              client.PUT("/api/projects/{slug}/members/{name}", {
                params: path(name),
                body: { right },
                headers,
              }),
            ),
        }),
      ),
    remove: (name: string) =>
      change(data(client.DELETE("/api/projects/{slug}/members/{name}", { params: path(name) })), () =>
        t("isNoLongerAMember", { name }),
      ),
    invite: (right: Right, days: number, about: string) =>
      change(
        data(
          client.POST("/api/projects/{slug}/invitations", {
            params: { path: { slug: toValue(slug) } },
            body: { right, days, about },
          }),
        ),
      ),
    revokeInvitation: (pk: number) =>
      change(
        data(
          client.DELETE("/api/projects/{slug}/invitations/{pk}", {
            params: { path: { slug: toValue(slug), pk } },
          }),
        ),
      ),
    handOver: (to: string, keep: Right | null, said: string) =>
      change(
        data(
          client.POST("/api/projects/{slug}/hand-over", {
            params: { path: { slug: toValue(slug) } },
            body: { to, keep },
          }),
        ),
        () => said,
      ),
    endSession: (pk: number) =>
      change(data(client.DELETE("/api/sessions/{pk}", { params: { path: { pk } } })).then(() => true)),
    makeToken: (name: string, days: number, right: Right) =>
      change(data(client.POST("/api/tokens", { body: { name, days, right } }))),
    revokeToken: (pk: number) =>
      change(data(client.DELETE("/api/tokens/{pk}", { params: { path: { pk } } })), () =>
        t("tokenRevokedScriptsThatUseIt"),
      ),
    changePassword: (old: string, fresh: string) =>
      change(
        data(client.PUT("/api/password", { body: { old, new: fresh } })).then(() => true),
        () => t("passwordChangedYourOtherSessionsHave"),
      ),
    endSessions: () =>
      change(data(client.DELETE("/api/sessions")), (done) =>
        t("otherSessionsEnded", { sessions: done.sessions }),
      ),
  };
}
