import type { Adoption, CastRow } from "@/api/materials";

export interface Branch {
  master: Adoption;
  /** Casts that are shown, each behind the one that it derives from. */
  rows: { row: CastRow; depth: number }[];
  /** How many casts are not shown; full: no more are shown in a list, they have to be found by name. */
  hidden: number;
  full: boolean;
}

/** So many casts of a master are shown without being asked for; of one that is looked at, and of what was found. */
const AT_ONCE = 12;
const AT_MOST = 200;

/**
 * The masters of a project with their casts, as a list that stays short however many there are. words: what names must
 * hold, of a master or a cast; open: masters whose casts are all shown.
 */
export function branchesOf(
  masters: Adoption[],
  casts: CastRow[],
  words: string,
  open: ReadonlySet<string>,
): Branch[] {
  const sought = words.trim().toLowerCase();
  const holds = (text: string) => text.toLowerCase().includes(sought);
  const byMaster = new Map<string, CastRow[]>();
  for (const row of casts) {
    const rows = byMaster.get(row.master);
    if (rows) rows.push(row);
    else byMaster.set(row.master, [row]);
  }
  const found: Branch[] = [];
  for (const master of masters) {
    const all = inOrder(byMaster.get(master.master) ?? []);
    const matching = !sought || holds(master.title) ? all : all.filter(({ row }) => holds(row.name));
    if (sought && !holds(master.title) && !matching.length) continue;
    const most = sought || open.has(master.master) ? AT_MOST : AT_ONCE;
    const rows = matching.slice(0, most);
    found.push({ master, rows, hidden: matching.length - rows.length, full: most === AT_MOST });
  }
  return found;
}

function inOrder(own: CastRow[]): { row: CastRow; depth: number }[] {
  const below = new Map<number | null, CastRow[]>();
  for (const row of own) {
    const rows = below.get(row.parent);
    if (rows) rows.push(row);
    else below.set(row.parent, [row]);
  }
  const found: { row: CastRow; depth: number }[] = [];
  const add = (parent: number | null, depth: number): void => {
    for (const row of below.get(parent) ?? []) {
      found.push({ row, depth });
      add(row.id, depth + 1);
    }
  };
  add(null, 0);
  return found;
}
