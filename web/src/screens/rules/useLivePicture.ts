import { onBeforeUnmount, ref, watch } from "vue";

import { type TargetDocument, triedOutput } from "@/api/rules";

const WAIT_MS = 250;

/** What an output that is being edited makes of a set: addresses of all channels (""), and of each by its letter. */
export function useLivePicture(
  slug: () => string,
  set: () => number | null,
  target: () => TargetDocument,
  output: () => string,
) {
  const results = ref<Record<string, string>>({});
  const problem = ref("");
  let asked: AbortController | null = null;
  let timer = 0;

  const free = () => Object.values(results.value).forEach((one) => URL.revokeObjectURL(one));

  async function load(): Promise<void> {
    asked?.abort();
    asked = new AbortController();
    const { signal } = asked;
    const chosen = target().outputs.find((one) => one.output === output());
    const id = set();
    if (id === null || !chosen) return;
    try {
      const found: Record<string, string> = {};
      await Promise.all(
        ["", ...Object.keys(chosen.channels)].map(async (letter) => {
          try {
            found[letter] = await triedOutput(slug(), id, target(), output(), letter, signal);
          } catch (error) {
            // Alpha that the set has nothing for is left out of the file.
            if (letter !== "a") throw error;
          }
        }),
      );
      free();
      results.value = found;
      problem.value = "";
    } catch (error) {
      if (!signal.aborted) problem.value = (error as Error).message;
    }
  }
  watch(
    [set, output, () => JSON.stringify(target())],
    () => {
      window.clearTimeout(timer);
      timer = window.setTimeout(() => void load(), WAIT_MS);
    },
    { immediate: true },
  );
  onBeforeUnmount(() => {
    window.clearTimeout(timer);
    asked?.abort();
    free();
  });
  return { results, problem };
}
