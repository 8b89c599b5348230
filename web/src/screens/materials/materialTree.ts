import type { TreeNode } from "primevue/treenode";

import type { Adoption, CastRow } from "@/api/materials";

/** What a row of the tree stands for. */
export type Leaf = { kind: "master"; master: Adoption } | { kind: "cast"; cast: CastRow };

const byName = (a: CastRow, b: CastRow) => a.name.localeCompare(b.name, "en", { numeric: true });

/**
 * The masters of a project with their casts, each cast below the one that it is made from. words: what names must hold,
 * of a master or a cast; a cast that is found brings those above it along.
 */
export function treeOf(masters: Adoption[], casts: CastRow[], words: string): TreeNode[] {
  const sought = words.trim().toLowerCase();
  const holds = (text: string) => text.toLowerCase().includes(sought);
  const below = new Map<string, CastRow[]>();
  for (const cast of casts) {
    const key = cast.parent === null ? cast.master : String(cast.parent);
    below.set(key, [...(below.get(key) ?? []), cast]);
  }
  const nodesOf = (key: string, all: boolean): TreeNode[] =>
    [...(below.get(key) ?? [])].sort(byName).flatMap((cast) => {
      const wanted = all || holds(cast.name);
      const children = nodesOf(String(cast.id), wanted);
      if (!wanted && !children.length) return [];
      return [{ key: `cast ${cast.id}`, label: cast.name, data: { kind: "cast", cast }, children }];
    });
  return masters.flatMap((master) => {
    const all = !sought || holds(master.title);
    const children = nodesOf(master.master, all);
    if (!all && !children.length) return [];
    const data: Leaf = { kind: "master", master };
    return [{ key: `master ${master.master}`, label: master.title, data, children }];
  });
}

/** The keys of all nodes that have others below them: what is open while something is sought. */
export function keysWithChildren(nodes: TreeNode[]): Record<string, boolean> {
  const found: Record<string, boolean> = {};
  for (const node of nodes) {
    if (!node.children?.length) continue;
    found[node.key] = true;
    Object.assign(found, keysWithChildren(node.children));
  }
  return found;
}
