/** Changes that take long: asked for as a job, whose end is waited for. */
import { t } from "@/texts/api";

import { client, data } from "./client";

/** From so many on, a change is made as a job: it shows how far it is, and can be stopped. */
export const MANY = 200;
const LOOK_MS = 400;
const ENDED = ["done", "failed", "cancelled"];
const pause = (ms: number) => new Promise((done) => window.setTimeout(done, ms));

export const isLater = (count: number) => (count >= MANY ? { later: true } : {});

/** What was made, once it is made: the answer, or nothing more than its job. Throws when the job failed. */
export async function made<T extends object>(slug: string, answer: T | { job: number }): Promise<T | true> {
  if (!("job" in answer)) return answer;
  for (;;) {
    const job = await data(
      client.GET("/api/projects/{slug}/jobs/{pk}", { params: { path: { slug, pk: answer.job } } }),
    );
    if (!ENDED.includes(job.state)) await pause(LOOK_MS);
    else if (job.state === "done") return true;
    else if (job.state === "cancelled") throw new Error(t("stoppedNothingChanged", { title: job.title }));
    else throw new Error(t("failedNothingChanged", { title: job.title, message: job.message }));
  }
}
