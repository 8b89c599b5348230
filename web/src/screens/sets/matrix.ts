/** The setList as a matrix: which maps stand in which cell, what is missing, how cells are joined by one packed file. */
import type { RoleInfo, SetList, TextureSet, TextureMap } from "@/api/types";

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
}

export type Filter = "all" | "error" | "warning" | "fine";

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

export function rowOf(set: TextureSet, columns: RoleInfo[]): Row {
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
  return { set, cells, state: stateOf(set) };
}

/** Rows whose name or file names, old ones too, hold the words, in the wished state. */
export function filtered(rows: Row[], words: string, filter: Filter): Row[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return rows.filter((row) => {
    if (filter !== "all" && row.state !== filter) return false;
    const files = row.set.maps.flatMap((map) => [map.file, map.came_as, ...map.old_names]);
    const text = [row.set.name, ...files].join(" ").toLowerCase();
    return wanted.every((word) => text.includes(word));
  });
}

/** Which rows of a long list to draw: those in sight, and a few before and behind. */
export function visibleRange(
  scrollTop: number,
  height: number,
  rowHeight: number,
  count: number,
): [number, number] {
  const first = Math.max(0, Math.floor(scrollTop / rowHeight) - 4);
  const last = Math.min(count, Math.ceil((scrollTop + height) / rowHeight) + 4);
  return [first, last];
}
