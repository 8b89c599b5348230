const LONGEST = 160;

/** A value of a document in words: texts as they are, anything else as JSON, shortened; a dash for none. */
export function valueWords(value: unknown): string {
  if (value === null || value === undefined || value === "") return "–";
  const text = typeof value === "string" ? value : JSON.stringify(value);
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text;
}
