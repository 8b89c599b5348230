import type { Destination } from "@/api/destinations";
import { t } from "@/texts/deliveries";

/** How a destination stands, in words: what lies there, and what came of bringing the last delivery. */
export function standing(one: Destination): { words: string; bad: boolean } {
  if (one.problem) return { words: one.problem, bad: true };
  const last = one.last;
  if (last?.state === "failed" && last.drift)
    return { words: t("othersChangedFiles", { count: last.drift }), bad: true };
  if (last?.state === "failed") return { words: last.message, bad: true };
  if (last && last.state !== "done" && last.state !== "cancelled")
    return { words: t("isOnItsWay", { number: last.number }), bad: false };
  if (one.holds === null) return { words: t("nothingLiesThereYet"), bad: false };
  return one.newest !== null && one.newest > one.holds
    ? { words: t("holdsButNewestIs", { holds: one.holds, newest: one.newest }), bad: false }
    : { words: t("holdsTheNewest", { holds: one.holds }), bad: false };
}
