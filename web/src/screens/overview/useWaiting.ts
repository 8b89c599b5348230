import { computed } from "vue";
import type { RouteLocationRaw } from "vue-router";

import { useHabit } from "@/api/habit";
import { useMaterials } from "@/api/materials";
import { useDeliveries, useJobs, useOverview, useProject, useSets } from "@/api/queries";
import { memoryWords, useBudget, useNames } from "@/api/rules";

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
const sets = (count: number) => (count === 1 ? "set" : "sets");

/** What waits in a project, by place. */
export function useWaiting(slug: () => string) {
  const overview = useOverview(slug);
  const project = useProject(slug);
  const setList = useSets(slug);
  const habit = useHabit(slug);
  const materials = useMaterials(slug);
  const names = useNames(slug);
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
    const unsure = lines.filter((line) => !line.taught && line.decided && !line.certain).length;
    const undecided = overview.data.value?.waiting.undecided ?? 0;
    return {
      title: "Files",
      nothing: "Every file is in a set.",
      rows: [
        ...row(
          "undecided",
          undecided,
          undecided === 1 ? "undecided file" : "undecided files",
          "warning",
          to("sets"),
        ),
        ...row(
          "guesses",
          unsure,
          unsure === 1 ? "suffix is a guess" : "suffixes are guesses",
          "note",
          to("habit"),
        ),
      ],
    };
  });
  const checks = computed<WaitingGroup>(() => {
    const { waiting, checks: found = [] } = overview.data.value ?? {};
    return {
      title: "Sets",
      nothing: "No errors, no warnings.",
      rows: [
        ...row(
          "errors",
          waiting?.errors ?? 0,
          `${sets(waiting?.errors ?? 0)} with errors`,
          "error",
          to("sets", { show: "error" }),
        ),
        ...row(
          "warnings",
          waiting?.warnings ?? 0,
          `${sets(waiting?.warnings ?? 0)} with warnings`,
          "warning",
          to("sets", { show: "warning" }),
        ),
        ...row(
          "unchecked",
          waiting?.unchecked ?? 0,
          `${sets(waiting?.unchecked ?? 0)} being checked`,
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
      title: "Deliveries",
      nothing: "Everything is delivered as it is.",
      rows: [
        ...row(
          "changed",
          changed.length,
          `${sets(changed.length)} changed since delivery`,
          "warning",
          to("sets", { since: "changed" }),
        ),
        ...row(
          "undelivered",
          undelivered.length,
          `${sets(undelivered.length)} never delivered`,
          delivered.value ? "warning" : "note",
          to("sets", { since: "undelivered" }),
        ),
      ],
    };
  });
  const updates = computed<WaitingGroup>(() => ({
    title: "Materials",
    nothing: "Every master is at its newest version.",
    rows: (materials.data.value?.masters ?? [])
      .filter((one) => one.update_available && !one.pinned)
      .map((one) => ({
        key: one.master,
        count: one.newest ?? "",
        label: `update of ${one.title} (now ${one.number})`,
        severity: "warning",
        to: to("materials", {}, { kind: "update", key: one.master }),
      })),
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
            label: `of the budget: ${memoryWords(memory)} of ${memoryWords(limit)}`,
            severity: over ? "error" : "fine",
            to: to("rules", {}, { part: "budget" }),
          },
        ]
      : [];
    return {
      title: "House rules",
      nothing: "Names follow the rules; the target has no budget.",
      rows: [
        ...row(
          "names",
          wrong,
          wrong === 1 ? "name breaks the rules" : "names break the rules",
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
      title: "Jobs",
      nothing: "Nothing is running.",
      rows: [
        ...row("running", running, running === 1 ? "job running" : "jobs running", "note", to("overview")),
        ...row(
          "failed",
          of("failed"),
          of("failed") === 1 ? "job failed" : "jobs failed",
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
      rules.value,
      work.value,
    ]),
    delivered,
    deliverable: computed(() => (setList.data.value?.sets.length ?? 0) > 0),
  };
}
