import { computed, ref } from "vue";

/** Rows that are selected: one by one, as a range from the last one (with Shift), or all that are listed. */
export function useSelection(listed: () => readonly number[]) {
  const chosen = ref(new Set<number>());
  let last: number | null = null;

  function toggle(id: number, range = false): void {
    const next = new Set(chosen.value);
    const all = listed();
    const [from, to] = [last === null ? -1 : all.indexOf(last), all.indexOf(id)];
    if (range && from >= 0 && to >= 0) {
      const on = !chosen.value.has(id);
      for (const one of all.slice(Math.min(from, to), Math.max(from, to) + 1))
        if (on) next.add(one);
        else next.delete(one);
    } else if (!next.delete(id)) next.add(id);
    last = id;
    chosen.value = next;
  }
  function clear(): void {
    chosen.value = new Set();
    last = null;
  }
  function all(): void {
    chosen.value = chosen.value.size === listed().length ? new Set() : new Set(listed());
  }
  return { chosen, ids: computed(() => listed().filter((id) => chosen.value.has(id))), toggle, clear, all };
}
