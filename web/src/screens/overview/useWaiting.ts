import { computed } from "vue";
import type { RouteLocationRaw } from "vue-router";

import { isGuess, useHabit } from "@/api/habit";
import { useGrounds } from "@/api/ground";
import { useMaterials } from "@/api/materials";
import { useModels } from "@/api/models";
import { useDeliveries, useJobs, useOverview, useProject, useSets } from "@/api/queries";
import { memoryWords, useBudget, useNames } from "@/api/rules";
import { useScans } from "@/api/scans";
import { t } from "@/texts/overview";

/** One number that waits: what it counts, and where it leads. */
export interface WaitingRow {
  key: string;
  count: string;
  label: string;
  severity: "error" | "warning" | "note" | "fine";
  to: RouteLocationRaw;
}
export interface WaitingGroup {
  title: string;
  rows: WaitingRow[];
  /** What is said where nothing waits. */
  nothing: string;
}

const MIB = 1 << 20;

/** What waits in a project, by place. */
export function useWaiting(slug: () => string) {
  const overview = useOverview(slug);
  const project = useProject(slug);
  const setList = useSets(slug);
  const habit = useHabit(slug);
  const materials = useMaterials(slug);
  const models = useModels(slug);
  const grounds = useGrounds(slug);
  const names = useNames(slug);
  const scans = useScans(slug);
  const jobs = useJobs(slug);
  const deliveries = useDeliveries(slug);
  const budget = useBudget(slug, () => project.data.value?.target ?? "");

  const to = (name: string, query: Record<string, string> = {}, params: Record<string, string> = {}) => ({
    name,
    params: { slug: slug(), ...params },
    query,
  });
  const row = (
    key: string,
    count: number,
    label: string,
    severity: WaitingRow["severity"],
    at: RouteLocationRaw,
  ): WaitingRow[] => (count ? [{ key, count: String(count), label, severity, to: at }] : []);

  const delivered = computed(() => (deliveries.data.value ?? []).some((one) => one.state === "done"));

  const files = computed<WaitingGroup>(() => {
    const lines = habit.data.value?.lines ?? [];
    const unsure = lines.filter(isGuess).length;
    const undecided = overview.data.value?.waiting.undecided ?? 0;
    return {
      title: t("files"),
      nothing: t("everyFileIsInASet"),
      rows: [
        ...row("undecided", undecided, t("countUndecidedFiles", { count: undecided }), "warning", to("sets")),
        ...row("guesses", unsure, t("countSuffixesAreGuesses", { count: unsure }), "note", to("habit")),
      ],
    };
  });
  const checks = computed<WaitingGroup>(() => {
    const { waiting, checks: found = [] } = overview.data.value ?? {};
    return {
      title: t("sets"),
      nothing: t("noErrorsNoWarnings"),
      rows: [
        ...row(
          "errors",
          waiting?.errors ?? 0,
          t("withErrors", { count: waiting?.errors ?? 0 }),
          "error",
          to("sets", { show: "error" }),
        ),
        ...row(
          "warnings",
          waiting?.warnings ?? 0,
          t("withWarnings", { count: waiting?.warnings ?? 0 }),
          "warning",
          to("sets", { show: "warning" }),
        ),
        ...row(
          "unchecked",
          waiting?.unchecked ?? 0,
          t("beingChecked", { count: waiting?.unchecked ?? 0 }),
          "note",
          to("sets", { show: "judging" }),
        ),
        ...found.flatMap((one) =>
          row(
            `check ${one.check}`,
            one.sets,
            one.title,
            one.severity as "error",
            to("sets", { check: one.check }),
          ),
        ),
      ],
    };
  });
  const outgoing = computed<WaitingGroup>(() => {
    const { changed = [], undelivered = [] } = overview.data.value ?? {};
    return {
      title: t("deliveries"),
      nothing: t("everythingIsDeliveredAsItIs"),
      rows: [
        ...row(
          "changed",
          changed.length,
          t("changedSinceDelivery", { count: changed.length }),
          "warning",
          to("sets", { since: "changed" }),
        ),
        ...row(
          "undelivered",
          undelivered.length,
          t("neverDelivered", { count: undelivered.length }),
          delivered.value ? "warning" : "note",
          to("sets", { since: "undelivered" }),
        ),
      ],
    };
  });
  const updates = computed<WaitingGroup>(() => ({
    title: t("materials"),
    nothing: t("everyMasterIsAtItsNewest"),
    rows: newerScans.value.concat(newerMasters.value),
  }));
  const newerMasters = computed<WaitingRow[]>(() =>
    (materials.data.value?.masters ?? [])
      .filter((one) => one.update_available && !one.pinned)
      .map((one) => ({
        key: one.master,
        count: one.newest ?? "",
        label: t("updateOfNow", { title: one.title, number: one.number }),
        severity: "warning",
        to: to("materials", {}, { kind: "update", key: one.master }),
      })),
  );
  const newerScans = computed<WaitingRow[]>(() =>
    (scans.data.value ?? [])
      .filter((one) => one.update_available)
      .map((one) => ({
        key: `scan ${one.id}`,
        count: String(one.newest),
        label: t("newerScan", { title: one.title, library: one.library, revision: one.revision }),
        severity: "warning",
        to: one.sets[0] ? { name: "set", params: { slug: slug(), id: one.sets[0].id } } : to("intake"),
      })),
  );
  const surfaces = computed<WaitingGroup>(() => ({
    title: t("modelsAndGround"),
    nothing: t("everySlotAndLayerWearsSomething"),
    rows: [
      ...(models.data.value ?? []).flatMap((one) => {
        const at = to("models", {}, { id: String(one.id) });
        const empty = row(
          `slots ${one.id}`,
          one.empty,
          t("emptySlots", { count: one.empty, name: one.name }),
          "error",
          at,
        );
        const warned = row(
          `model ${one.id}`,
          one.warnings,
          t("warningsOf", { count: one.warnings, name: one.name }),
          "warning",
          at,
        );
        return [...empty, ...warned];
      }),
      ...(grounds.data.value ?? []).flatMap((one) =>
        row(
          `ground ${one.id}`,
          one.empty,
          t("emptyLayers", { count: one.empty, name: one.name }),
          "error",
          to("ground", {}, { id: String(one.id) }),
        ),
      ),
    ],
  }));
  const rules = computed<WaitingGroup>(() => {
    const wrong = (names.data.value?.files ?? []).filter((one) => !one.fine).length;
    const { memory = 0, budget: limits } = budget.data.value ?? {};
    const limit = (limits?.memory_mib ?? 0) * MIB;
    const over = limit > 0 && memory > limit;
    const room: WaitingRow[] = limit
      ? [
          {
            key: "budget",
            count: `${Math.round((100 * memory) / limit)} %`,
            label: t("ofTheBudgetOf", { memory: memoryWords(memory), memory2: memoryWords(limit) }),
            severity: over ? "error" : "fine",
            to: to("rules", {}, { part: "budget" }),
          },
        ]
      : [];
    return {
      title: t("houseRules"),
      nothing: t("namesFollowTheRulesTheTarget"),
      rows: [
        ...row(
          "names",
          wrong,
          t("countNamesBreakTheRules", { count: wrong }),
          "warning",
          to("rules", {}, { part: "names" }),
        ),
        ...room,
      ],
    };
  });
  const work = computed<WaitingGroup>(() => {
    const of = (state: string) => (jobs.data.value ?? []).filter((job) => job.state === state).length;
    const running = of("running") + of("waiting");
    return {
      title: t("jobs"),
      nothing: t("nothingIsRunning"),
      rows: [
        ...row("running", running, t("countJobsRunning", { count: running }), "note", to("overview")),
        ...row(
          "failed",
          of("failed"),
          t("countJobsFailed", { count: of("failed") }),
          "error",
          to("overview"),
        ),
      ],
    };
  });

  return {
    groups: computed(() => [
      files.value,
      checks.value,
      outgoing.value,
      updates.value,
      surfaces.value,
      rules.value,
      work.value,
    ]),
    delivered,
    deliverable: computed(() => (setList.data.value?.sets.length ?? 0) > 0),
  };
}
