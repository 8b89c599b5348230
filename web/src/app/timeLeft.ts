import type { Job } from "@/api/types";
import { t } from "@/texts/app";

/** When each job was first seen at work, and how far it was then. */
const FIRST = new Map<number, { at: number; done: number }>();
const SECOND = 1000;
const MINUTE_S = 60;

/** How long a job will still take, in words, from how fast it went so far; empty until that can be said. */
export function timeLeft(job: Pick<Job, "id" | "state" | "done" | "total">, now = Date.now()): string {
  if (job.state !== "running" || !job.total) {
    FIRST.delete(job.id);
    return "";
  }
  const first = FIRST.get(job.id);
  if (!first) {
    FIRST.set(job.id, { at: now, done: job.done });
    return "";
  }
  const gone = job.done - first.done;
  if (gone <= 0 || now - first.at < SECOND) return "";
  const seconds = Math.ceil(((now - first.at) / gone / SECOND) * (job.total - job.done));
  if (seconds < MINUTE_S) return t("aboutSLeft", { seconds });
  return t("aboutMinLeft", { seconds: Math.ceil(seconds / MINUTE_S) });
}
