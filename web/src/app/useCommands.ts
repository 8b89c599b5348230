import { computed, type MaybeRefOrGetter, toValue } from "vue";
import type { RouteLocationRaw } from "vue-router";

import { type RuleKind, useRules } from "@/api/rules";
import { type Found, useSearch } from "@/api/search";
import { t } from "@/texts/app";

import type { Command } from "./commands";
import { keyGroups } from "./keys";
import { PLACES } from "./places";
import { router } from "./router";

const RULES: [RuleKind, string, string][] = [
  ["target", t("target"), "targets"],
  ["layout", t("layout"), "layouts"],
];
const shownKey = (key: string) => key.split(" ")[0]!;

const KINDS: Record<Found["kind"], string> = {
  set: t("set"),
  file: t("file"),
  cast: t("cast"),
  master: t("master"),
  function: t("function"),
  model: t("model"),
  ground: t("ground"),
  project: t("project"),
  parameter: t("parameter"),
};

/** Where something that was found is looked at. slug: of the project at hand, for what all projects share. */
export function placeOf(one: Found, slug: string): RouteLocationRaw {
  const own = { slug: one.slug || slug };
  switch (one.kind) {
    case "set":
      return { name: "set", params: { ...own, id: one.key } };
    case "file":
      return one.key
        ? { name: "set", params: { ...own, id: one.key }, query: { map: one.at } }
        : { name: "intake", params: own };
    case "cast":
    case "master":
    case "function":
      return { name: "materials", params: { ...own, kind: one.kind, key: one.key } };
    case "parameter":
      return { name: "materials", params: { ...own, kind: "master", key: one.key } };
    case "model":
      return { name: "models", params: { ...own, id: one.key } };
    case "ground":
      return { name: "ground", params: { ...own, id: one.key } };
    case "project":
      return { name: "overview", params: own };
  }
}

/** What the command field can go to or run: places and actions of the page, and what the server finds for the words. */
export function useCommands(slug: MaybeRefOrGetter<string>, words: MaybeRefOrGetter<string>) {
  const asked = useSearch(words, slug);
  const rules = RULES.map(([kind]) => useRules(slug, kind));
  const go = (name: string, params: Record<string, string | number> = {}, query = {}) =>
    void router.push({ name, params: { slug: toValue(slug), ...params }, query });

  const places = () =>
    [...PLACES, { name: "history", label: t("history"), key: "" }].map<Command>((one) => ({
      kind: t("place"),
      label: one.label,
      ...(one.key ? { key: one.key } : {}),
      run: () => go(one.name),
    }));
  const actions = () =>
    [...keyGroups].reverse().flatMap((group) =>
      group.keys
        .filter((one) => !one.does.startsWith(t("goTo2")))
        .map<Command>((one) => ({
          kind: t("action"),
          label: one.does,
          key: one.shown ?? shownKey(one.key),
          run: () => one.run(new KeyboardEvent("keydown", { key: shownKey(one.key) })),
        })),
    );
  const found = () =>
    (asked.data.value ?? []).map<Command>((one) => ({
      kind: KINDS[one.kind],
      label: one.name,
      detail: one.slug && one.slug !== toValue(slug) ? `${one.detail}, ${one.slug}` : one.detail,
      found: true,
      run: () => void router.push(placeOf(one, toValue(slug))),
    }));
  const ofRules = () =>
    RULES.flatMap(([, kind, part], at) =>
      (rules[at]!.data.value ?? []).map<Command>((one) => ({
        kind,
        label: one.title,
        detail: one.name,
        run: () => go("rules", { part }, { open: one.name }),
      })),
    );
  return computed(() => [...places(), ...actions(), ...ofRules(), ...found()]);
}
