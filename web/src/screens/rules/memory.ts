/** A budget's files taken together by what a person asks about: sets, roles or outputs. */
import type { Budget } from "@/api/rules";

export type By = "set" | "role" | "output";

/** One stretch of a bar: a file, or the share of it that counts here. */
export interface Part {
  path: string;
  set: string;
  output: string;
  memory: number;
  words: string;
}
export interface Group {
  key: string;
  memory: number;
  parts: Part[];
}

/** Groups by what they take, the largest first; shares of packed files as the server counted them. */
export function groupsOf(budget: Budget, by: By): Group[] {
  const groups = new Map<string, Group>();
  const add = (key: string, part: Part) => {
    const group = groups.get(key) ?? { key, memory: 0, parts: [] };
    group.memory += part.memory;
    group.parts.push(part);
    groups.set(key, group);
  };
  for (const set of budget.sets) {
    for (const file of set.files) {
      const part = {
        path: file.path,
        set: set.name,
        output: file.output,
        memory: file.memory,
        words: `${set.name}, ${file.output}, ${file.width} × ${file.height}`,
      };
      if (by === "set") add(set.name, part);
      else if (by === "output") add(file.output, part);
      else for (const [role, memory] of Object.entries(file.roles)) add(role, { ...part, memory });
    }
  }
  return [...groups.values()].sort((a, b) => b.memory - a.memory);
}
