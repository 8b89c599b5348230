import { type MaybeRefOrGetter, toValue } from "vue";

import { keys } from "./queries";
import { useChange } from "./useChange";

/** Changes to a project's sets: each shows its error once, is told with the way back, and asks for the sets anew. */
export function useToldChange(slug: MaybeRefOrGetter<string>) {
  const { change: make } = useChange(slug, () => [keys.sets(toValue(slug))]);

  /** said: what is told of the change; then the message carries "Undo". */
  return function change<Given, T = unknown>(
    run: (given: Given) => Promise<T>,
    said?: (given: Given) => string,
  ) {
    async function mutate(given: Given, more: { onSuccess?: (made: T) => void } = {}): Promise<void> {
      const made = await make(() => run(given), {
        said: (answer) => (said && answer !== null ? said(given) : null),
        undoable: true,
      });
      if (made === null) return;
      more.onSuccess?.(made);
    }
    return { mutate };
  };
}
