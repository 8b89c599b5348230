export interface Renaming {
  /** A text that is replaced wherever it stands. */
  find: string;
  replace: string;
  before: string;
  behind: string;
}

/** A name with a text in it replaced, and with something put before and behind. */
export function renamed(name: string, { find, replace, before, behind }: Renaming): string {
  const middle = find ? name.split(find).join(replace) : name;
  return `${before}${middle}${behind}`.trim() || name;
}
