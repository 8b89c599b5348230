import { useQueryClient } from "@tanstack/vue-query";
import { useToast } from "primevue/usetoast";
import { type MaybeRefOrGetter, ref, toValue } from "vue";

import { client, data } from "./client";
import { keys } from "./queries";
import type { Rule, RuleKind } from "./rules";

type Slug = MaybeRefOrGetter<string>;

/** Changes to rules, names, budgets and waivers; each says what went wrong, and asks anew for what it changed. */
export function useRuleChanges(slug: Slug) {
  const queries = useQueryClient();
  const toast = useToast();
  const busy = ref(false);
  const path = () => ({ slug: toValue(slug) });

  const complain = (summary: string) => toast.add({ severity: "error", summary, life: 9000 });

  async function change<T>(work: () => Promise<T>, said?: (done: T) => string): Promise<T | null> {
    busy.value = true;
    try {
      const done = await work();
      if (said) toast.add({ severity: "secondary", summary: said(done), life: 2500 });
      await queries.invalidateQueries({ queryKey: keys.project(toValue(slug)) });
      return done;
    } catch (error) {
      complain((error as Error).message);
      return null;
    } finally {
      busy.value = false;
    }
  }

  return {
    busy,
    complain,
    put: (kind: RuleKind, name: string, document: unknown) =>
      change(
        async () => {
          const made = await data(
            client.PUT("/api/projects/{slug}/rules/{kind}/{name}", {
              params: { path: { ...path(), kind, name } },
              body: document as Record<string, never>,
            }),
          );
          // Whoever comes back to the list before it is asked for anew must not begin to edit the old version.
          queries.setQueryData<Rule[]>([...keys.project(toValue(slug)), "rules", kind], (before) =>
            before?.map((one) => (one.name === made.name ? made : one)),
          );
          return made;
        },
        (made) => `Kept as version ${made.number}`,
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
        (made) => `Copied ${made.title}`,
      ),
    rename: (changes: { file: number; path: string }[]) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/names/rename", {
              params: { path: path() },
              body: { changes },
            }),
          ),
        (done) => `Renamed ${done.files} files; Z takes it back`,
      ),
    metres: (set: number, metres: number | null) =>
      change(() =>
        data(
          client.PUT("/api/projects/{slug}/sets/{pk}/metres", {
            params: { path: { ...path(), pk: set } },
            body: { metres },
          }),
        ),
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
