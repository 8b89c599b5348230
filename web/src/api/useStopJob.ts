import { client, data } from "./client";
import { keys } from "./queries";
import { useChange } from "./useChange";

/** Stop a job of a project; what it was about to change stays as it was. */
export function useStopJob(slug: () => string) {
  const { change } = useChange(slug, () => [keys.jobs(slug())]);
  return (pk: number) =>
    change(() =>
      data(client.POST("/api/projects/{slug}/jobs/{pk}/cancel", { params: { path: { slug: slug(), pk } } })),
    );
}
