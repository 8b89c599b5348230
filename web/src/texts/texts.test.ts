import { describe, expect, it } from "vitest";

import { textsOf } from ".";

const files = import.meta.glob<string>("../**/*.{vue,ts}", { query: "?raw", import: "default", eager: true });
const areas = import.meta.glob<Record<string, string>>("./en/*.json", { import: "default", eager: true });
const sources = Object.values(files);

describe("the page's texts", () => {
  it.each(Object.entries(areas))("of %s are all used, with a value for each of their gaps", (path, texts) => {
    const area = /(\w+)\.json/.exec(path)![1]!;
    const users = sources.filter((one) => one.includes(`"@/texts/${area}"`));
    for (const [key, text] of Object.entries(texts)) {
      const uses = users.filter((one) => new RegExp(`\\bt\\(\\s*['"]${key}['"]`).test(one));
      expect(uses, `${area}.${key} is used`).not.toEqual([]);
      for (const [, gap] of text.matchAll(/\{(\w+)\}/g))
        for (const one of uses) expect(one, `${area}.${key} gets ${gap}`).toMatch(new RegExp(`\\b${gap}\\b`));
    }
  });

  it("have a form for one thing, where they count things", () => {
    const counting = Object.values(areas).flatMap((texts) =>
      Object.values(texts).filter((text) => /\{count\} (of \w+ |added )?[a-z]+s\b/.test(text)),
    );
    expect(counting.length).toBeGreaterThan(20);
    expect(counting.filter((text) => !text.includes(" | "))).toEqual([]);
  });

  it("stand in the message files alone, not in a part's attributes", () => {
    const words = /\s(?:value|label|title|placeholder|header|alt|aria-label)="[A-Za-z]+ [^"]*"/g;
    const found = Object.entries(files).flatMap(([path, source]) =>
      path.endsWith(".vue") ? [...source.matchAll(words)].map(([text]) => `${path}:${text}`) : [],
    );
    expect(found).toEqual([]);
  });

  it("take the form for a count, and say signs as they are", () => {
    const t = textsOf("tried", { sets: "1 set | {count} sets", mail: "a{'@'}b", of: "{part} of {whole}" });
    expect([0, 1, 2].map((count) => t("sets", { count }))).toEqual(["0 sets", "1 set", "2 sets"]);
    expect(t("mail")).toBe("a@b");
    expect(t("of", { part: 1, whole: "all" })).toBe("1 of all");
  });
});
