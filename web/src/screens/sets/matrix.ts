/** The sets as a matrix: which maps stand in which cell, what is missing, how cells are joined by one packed file. */
import type { RoleInfo, SetList, TextureSet, TextureMap } from "@/api/types";
import { t } from "@/texts/sets";

export interface Cell {
  role: string;
  map: TextureMap | null;
  more: number;
  missing: boolean;
  joinedLeft: boolean;
  joinedRight: boolean;
}

export type RowState = "judging" | "error" | "warning" | "fine";

export interface Row {
  set: TextureSet;
  cells: Cell[];
  state: RowState;
  /** How many tiles the surface has of which this set is one; 0 for one that is no tile. */
  tiles: number;
}

export type Filter = "all" | "error" | "warning" | "fine" | "judging";

const ALWAYS = new Set(["base_color", "normal", "roughness", "metallic", "occlusion", "height"]);

/** Columns: the six that most surfaces have, and whichever others are in use. */
export function columnsOf(setList: SetList): RoleInfo[] {
  const used = new Set(setList.sets.flatMap((set) => set.maps.map((map) => map.role)));
  return setList.roles.filter((role) => ALWAYS.has(role.key) || used.has(role.key));
}

export function stateOf(set: TextureSet): RowState {
  if (!set.judged) return "judging";
  if (set.errors) return "error";
  return set.warnings ? "warning" : "fine";
}

/** The number of tiles of the surface that a set is one of, by the set's name. */
export const tilesByName = (setList: SetList): Map<string, number> =>
  new Map(setList.tiled.flatMap((one) => one.tiles.map((tile) => [tile.set, one.tiles.length] as const)));

export function rowOf(set: TextureSet, columns: RoleInfo[], tiles = 0): Row {
  const cells = columns.map<Cell>((column) => {
    const maps = set.maps.filter((map) => map.role === column.key);
    return {
      role: column.key,
      map: maps[0] ?? null,
      more: Math.max(0, maps.length - 1),
      missing: set.missing.includes(column.key),
      joinedLeft: false,
      joinedRight: false,
    };
  });
  cells.forEach((cell, index) => {
    const before = cells[index - 1];
    if (before?.map?.channel && cell.map?.channel && before.map.file === cell.map.file) {
      before.joinedRight = true;
      cell.joinedLeft = true;
    }
  });
  return { set, cells, state: stateOf(set), tiles };
}

export interface Wanted {
  words: string;
  filter: Filter;
  /** A check that found something in the set. */
  check?: string;
  /** Only these sets, where given. */
  only?: ReadonlySet<number> | null;
}

/** Rows whose name or file names, old ones too, hold the words, in the wished state. */
export function filtered(rows: Row[], { words, filter, check, only }: Wanted): Row[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return rows.filter((row) => {
    if (filter !== "all" && row.state !== filter) return false;
    if (check && !row.set.checks.includes(check)) return false;
    if (only && !only.has(row.set.id)) return false;
    const files = row.set.maps.flatMap((map) => [map.file, map.came_as, ...map.old_names]);
    const text = [row.set.name, ...files].join(" ").toLowerCase();
    return wanted.every((word) => text.includes(word));
  });
}

export type Sort = "name" | "verdict" | "maps" | "resolution";
export type Grouping = "none" | "folder" | "prefix" | "verdict";

const HARM: Record<RowState, number> = { error: 0, warning: 1, judging: 2, fine: 3 };
const byName = (a: Row, b: Row) => a.set.name.localeCompare(b.set.name, "en", { numeric: true });
const largest = (row: Row) => Math.max(0, ...row.set.maps.map((map) => map.width * map.height));
const ORDERS: Record<Sort, (a: Row, b: Row) => number> = {
  name: byName,
  verdict: (a, b) =>
    HARM[a.state] - HARM[b.state] ||
    b.set.errors - a.set.errors ||
    b.set.warnings - a.set.warnings ||
    byName(a, b),
  maps: (a, b) => b.set.maps.length - a.set.maps.length || byName(a, b),
  resolution: (a, b) => largest(b) - largest(a) || byName(a, b),
};
export const sorted = (rows: Row[], by: Sort): Row[] => [...rows].sort(ORDERS[by]);

/** The folder that most of a set's files lie in. */
function folderOf(row: Row): string {
  const counts = new Map<string, number>();
  for (const { file } of row.set.maps) {
    const folder = file.includes("/") ? file.slice(0, file.lastIndexOf("/")) : "";
    counts.set(folder, (counts.get(folder) ?? 0) + 1);
  }
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? "";
}
const VERDICTS: Record<RowState, string> = {
  error: t("verdictErrors"),
  warning: t("verdictWarnings"),
  judging: t("beingChecked2"),
  fine: t("noFindings"),
};
const KEYS: Record<Exclude<Grouping, "none">, (row: Row) => string> = {
  folder: (row) => folderOf(row) || t("noFolder"),
  prefix: (row) => /^[^\s_.-]+/.exec(row.set.name)?.[0]?.toLowerCase() ?? "",
  verdict: (row) => VERDICTS[row.state],
};

/** A row, or the head of a group of rows. */
export type Item = { row: Row; head?: undefined } | { head: string; count: number; row?: undefined };

/** Rows below the heads of their groups; the groups stand in the order of their first rows. */
export function grouped(rows: Row[], by: Grouping): Item[] {
  if (by === "none") return rows.map((row) => ({ row }));
  const groups = new Map<string, Row[]>();
  for (const row of rows) groups.set(KEYS[by](row), [...(groups.get(KEYS[by](row)) ?? []), row]);
  return [...groups].flatMap(([head, own]) => [{ head, count: own.length }, ...own.map((row) => ({ row }))]);
}

/** Where each item begins, and behind the last where all end, in pixels. */
export function offsetsOf(items: readonly Item[], rowHeight: number, headHeight: number): number[] {
  const offsets = [0];
  for (const item of items) offsets.push(offsets.at(-1)! + (item.row ? rowHeight : headHeight));
  return offsets;
}

const AROUND = 4;

/** Which items of a long list to draw: those in sight, and a few before and behind. */
export function visibleRange(
  offsets: readonly number[],
  scrollTop: number,
  height: number,
): [number, number] {
  const firstBelow = (at: number) => {
    let [low, high] = [0, offsets.length - 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (offsets[middle + 1]! <= at) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  const count = offsets.length - 1;
  const first = Math.max(0, firstBelow(scrollTop) - AROUND);
  return [first, Math.min(count, firstBelow(scrollTop + height) + 1 + AROUND)];
}
