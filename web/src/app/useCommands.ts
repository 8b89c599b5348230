import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { useGrounds } from "@/api/ground";
import { useLibrary, useMaterials } from "@/api/materials";
import { useModels } from "@/api/models";
import { useProjects, useSets } from "@/api/queries";
import { type RuleKind, useRules } from "@/api/rules";
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

/** Everything that the command field can go to or run, places and actions first. */
export function useCommands(slug: MaybeRefOrGetter<string>) {
  const setList = useSets(slug);
  const materials = useMaterials(slug);
  const library = useLibrary();
  const models = useModels(slug);
  const grounds = useGrounds(slug);
  const projects = useProjects();
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
  const sets = () =>
    (setList.data.value?.sets ?? []).flatMap<Command>((set) => [
      {
        kind: t("set"),
        label: set.name,
        detail: t("maps", { count: set.maps.length }),
        run: () => go("set", { id: set.id }),
      },
      ...set.maps.map((map) => ({
        kind: t("file"),
        label: map.file,
        detail: set.name,
        run: () => go("set", { id: set.id }, { map: map.id }),
      })),
    ]);
  const ofMaterials = () => [
    ...(materials.data.value?.casts ?? []).map<Command>((one) => ({
      kind: t("cast"),
      label: one.name,
      detail: one.master,
      run: () => go("materials", { kind: "cast", key: one.id }),
    })),
    ...(library.data.value ?? []).map<Command>((one) => ({
      kind: t("master"),
      label: one.title,
      detail: one.name,
      run: () => go("materials", { kind: "master", key: one.name }),
    })),
  ];
  const ofModels = () => [
    ...(models.data.value ?? []).map<Command>((one) => ({
      kind: t("model"),
      label: one.name,
      detail: one.file,
      run: () => go("models", { id: one.id }),
    })),
    ...(grounds.data.value ?? []).map<Command>((one) => ({
      kind: t("ground"),
      label: one.name,
      detail: t("layers", { count: one.layers }),
      run: () => go("ground", { id: one.id }),
    })),
  ];
  const ofRules = () =>
    RULES.flatMap(([, kind, part], at) =>
      (rules[at]!.data.value ?? []).map<Command>((one) => ({
        kind,
        label: one.title,
        detail: one.name,
        run: () => go("rules", { part }, { open: one.name }),
      })),
    );
  const others = () =>
    (projects.data.value ?? []).map<Command>((one) => ({
      kind: t("project"),
      label: one.name,
      run: () => void router.push({ name: "overview", params: { slug: one.slug } }),
    }));

  return computed(() => [
    ...places(),
    ...actions(),
    ...sets(),
    ...ofMaterials(),
    ...ofModels(),
    ...ofRules(),
    ...others(),
  ]);
}
