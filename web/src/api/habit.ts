/** What the suffixes of a project's files mean: asked for, taught, taken over from another project. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import { keys } from "./queries";
import { useChange } from "./useChange";
import type { HabitLine, TaughtLine } from "./types";

type Slug = MaybeRefOrGetter<string>;

const habitKey = (slug: string) => [...keys.project(slug), "habit"] as const;

export const useHabit = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => habitKey(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/habit", { params: { path: { slug: toValue(slug) } } })),
  });

/** Whether a line's meaning is the tool's own guess, which nobody has confirmed. */
export const isGuess = (line: HabitLine) => line.decided && !line.certain && !line.taught;

/** What a line says of its suffix, as it is taught; with another role where one is given. */
export function lesson(line: HabitLine, role = line.role, channels = line.channels): TaughtLine {
  const where = line.where as TaughtLine["where"];
  return { suffix: line.suffix, where, folder: line.folder, role, channels: role === "pack" ? channels : {} };
}

/** Teaching sorts files again in a worker; the answer arrives as an event. */
export function useTeaching(slug: Slug) {
  const path = () => ({ slug: toValue(slug) });
  const { change } = useChange(slug, () => [keys.jobs(toValue(slug))]);
  const asked = <Given>(run: (given: Given) => Promise<unknown>) => ({
    mutate: (given: Given) => void change(() => run(given)),
  });
  return {
    teach: asked((teach: TaughtLine[]) =>
      data(
        client.POST("/api/projects/{slug}/habit/teach", {
          params: { path: path() },
          body: { teach, forget: [] },
        }),
      ),
    ),
    forget: asked((line: HabitLine) =>
      data(
        client.POST("/api/projects/{slug}/habit/teach", {
          params: { path: path() },
          body: {
            teach: [],
            forget: [{ suffix: line.suffix, where: line.where as TaughtLine["where"], folder: line.folder }],
          },
        }),
      ),
    ),
    again: asked(() =>
      data(client.POST("/api/projects/{slug}/habit/sort-again", { params: { path: path() } })),
    ),
    copy: asked((project: string) =>
      data(client.POST("/api/projects/{slug}/habit/copy", { params: { path: path() }, body: { project } })),
    ),
  };
}
