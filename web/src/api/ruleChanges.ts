import { useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { changed, merged } from "./conflicts";
import { isLater, made } from "./later";
import { keys } from "./queries";
import type { Rule, RuleBody, RuleKind } from "./rules";
import { useChange } from "./useChange";

type Slug = MaybeRefOrGetter<string>;

/** Changes to rules, names, budgets and waivers; each says what went wrong, and asks anew for what it changed. */
export function useRuleChanges(slug: Slug) {
  const queries = useQueryClient();
  const path = () => ({ slug: toValue(slug) });
  const { busy, change: make, notices } = useChange(slug, () => [keys.project(toValue(slug))]);
  const complain = (summary: string) => notices.failed(summary);
  const change = <T>(work: () => Promise<T>, said?: (made: T) => string | null) =>
    make(work, { said, undoable: true });

  return {
    busy,
    complain,
    /** seen: the version that was edited. What others changed in other places of it since goes along. */
    put: (kind: RuleKind, name: string, document: RuleBody, seen?: Rule | null) =>
      change(
        async () => {
          let wanted = document;
          const made = await changed<Rule, Rule>({
            key: `${kind} ${name}`,
            seen: seen ?? undefined,
            revision: (one) => one.number,
            same: (before, now) => {
              const both = merged<RuleBody>(before.document, wanted, now.document);
              wanted = both.value;
              return both.clashes.length === 0;
            },
            about: seen?.title ?? name,
            mine: t("yourVersionAndWhatWasChanged"),
            theirs: (now) => t("versionNumber", { number: now.number }),
            looks: (now) => ({ values: merged<unknown>(seen?.document, document, now.document).clashes }),
            send: (headers) =>
              data(
                client.PUT("/api/projects/{slug}/rules/{kind}/{name}", {
                  params: { path: { ...path(), kind, name } },
                  body: wanted,
                  headers,
                }),
              ),
          });
          if (!made) return null;
          // Whoever comes back to the list before it is asked for anew must not begin to edit the old version.
          queries.setQueryData<Rule[]>([...keys.project(toValue(slug)), "rules", kind], (before) =>
            before?.map((one) => (one.name === made.name ? made : one)),
          );
          return made;
        },
        (made) => (made ? t("savedAsVersion", { number: made.number }) : null),
      ),
    copy: (kind: RuleKind, project: string, name: string) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/rules/{kind}/{name}/copy", {
              params: { path: { ...path(), kind, name } },
              body: { project },
            }),
          ),
        (made) => t("copied", { title: made.title }),
      ),
    /** seen: the name that each file was seen to have. */
    rename: (changes: { file: number; path: string; seen?: string }[]) =>
      change(
        async () =>
          made(
            toValue(slug),
            await data(
              client.POST("/api/projects/{slug}/names/rename", {
                params: { path: path(), query: isLater(changes.length) },
                body: { changes },
              }),
            ),
          ),
        () => t("renamedFiles", { files: changes.length }),
      ),
    measure: (target: string) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/budget/measure", {
            params: { path: path(), query: { target } },
          }),
        ),
      ),
    tryFormats: (map: number, formats: string[], quality: string) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/maps/{pk}/trials", {
            params: { path: { ...path(), pk: map } },
            body: { formats, quality },
          }),
        ),
      ),
    waive: (finding: number, reason: string, until: string | null) =>
      change(() =>
        data(
          client.POST("/api/projects/{slug}/waivers", {
            params: { path: path() },
            body: { finding, reason, until },
          }),
        ),
      ),
    revoke: (waiver: number) =>
      change(() =>
        data(
          client.DELETE("/api/projects/{slug}/waivers/{pk}", { params: { path: { ...path(), pk: waiver } } }),
        ),
      ),
  };
}
