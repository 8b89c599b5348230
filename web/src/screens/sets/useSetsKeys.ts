import { computed, type ComputedRef, type Ref, ref, watch } from "vue";

import type { RoleInfo, TextureMap } from "@/api/types";
import { useKeys } from "@/app/keys";
import { t } from "@/texts/sets";

import type { Row } from "./matrix";

interface Doing {
  rows: ComputedRef<Row[]>;
  columns: ComputedRef<RoleInfo[]>;
  looked: Ref<TextureMap | null>;
  reveal: (row: number) => void;
  open: (set: number, map?: TextureMap) => void;
  chooseRow: (set: number, range?: boolean) => void;
  chooseAll: () => void;
  startRename: (set: number) => void;
  search: () => void;
  assign: (map: TextureMap, role: string) => void;
  takeOut: (map: TextureMap) => void;
  merge: () => void;
  deliver: () => void;
}

/** The setList by keyboard: one print has the focus, everything frequent happens to it. */
export function useSetsKeys(doing: Doing) {
  const focus = ref<{ row: number; column: number } | null>(null);
  const focusedRow = computed(() => (focus.value ? (doing.rows.value[focus.value.row] ?? null) : null));
  const focusedMap = computed(() =>
    focus.value ? (focusedRow.value?.cells[focus.value.column]?.map ?? null) : null,
  );
  watch(
    () => doing.rows.value.length,
    (count) => {
      if (focus.value && focus.value.row >= count)
        focus.value = count ? { ...focus.value, row: count - 1 } : null;
    },
  );

  function step(down: number, right: number): void {
    if (doing.rows.value.length === 0) return;
    const at = focus.value;
    if (!at) {
      focus.value = { row: 0, column: 0 };
      return;
    }
    focus.value = {
      row: Math.max(0, Math.min(doing.rows.value.length - 1, at.row + down)),
      column: Math.max(0, Math.min(doing.columns.value.length - 1, at.column + right)),
    };
  }

  const digit = (event: KeyboardEvent) => (Number(/\d/.exec(event.code)?.[0] ?? "1") + 9) % 10;
  const digits = "1 2 3 4 5 6 7 8 9 0";

  useKeys(t("sets"), [
    { key: "ArrowDown J", does: t("nextSet"), run: () => step(1, 0) },
    { key: "ArrowUp K", does: t("previousSet"), run: () => step(-1, 0) },
    { key: "ArrowRight", does: t("nextRole"), run: () => step(0, 1) },
    { key: "ArrowLeft", does: t("previousRole"), run: () => step(0, -1) },
    {
      key: digits,
      shown: "1…0",
      does: t("goToTheRoleOfThat"),
      run: (event) => {
        const column = digit(event);
        if (column < doing.columns.value.length) focus.value = { row: focus.value?.row ?? 0, column };
      },
    },
    {
      key: digits
        .split(" ")
        .map((one) => `Shift+${one}`)
        .join(" "),
      shown: "Shift+1…0",
      does: t("giveTheMapThatRole"),
      run: (event) => {
        const role = doing.columns.value[digit(event)];
        if (role && focusedMap.value) doing.assign(focusedMap.value, role.key);
      },
    },
    {
      key: "Space",
      does: t("lookCloserAndBack"),
      run: () => (doing.looked.value = doing.looked.value ? null : focusedMap.value),
    },
    { key: "Escape", does: t("backFromACloserLook"), run: () => (doing.looked.value = null) },
    {
      key: "Enter",
      does: t("openTheSet"),
      run: () => focusedRow.value && doing.open(focusedRow.value.set.id, focusedMap.value ?? undefined),
    },
    {
      key: "S",
      does: t("selectTheSet"),
      run: () => focusedRow.value && doing.chooseRow(focusedRow.value.set.id),
    },
    {
      key: "Shift+S",
      does: t("selectAllUpToThisSet"),
      run: () => focusedRow.value && doing.chooseRow(focusedRow.value.set.id, true),
    },
    { key: "Ctrl+A", does: t("selectAllSetsThatAreListed"), run: () => doing.chooseAll() },
    { key: "Shift+Enter", does: t("deliverTheSelectedSets"), run: () => doing.deliver() },
    { key: "M", does: t("mergeTheSelectedSets"), run: () => doing.merge() },
    {
      key: "N",
      does: t("renameTheSet"),
      run: () => focusedRow.value && doing.startRename(focusedRow.value.set.id),
    },
    {
      key: "X",
      does: t("takeTheMapOutOfIts"),
      run: () => focusedMap.value && doing.takeOut(focusedMap.value),
    },
    { key: "/", does: t("find"), run: () => doing.search() },
  ]);
  return { focus, focusedRow, focusedMap };
}
