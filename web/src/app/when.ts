/** A point in time as people read it, by the browser's own locale. */
export const whenOf = (text: string): string =>
  new Date(text).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
