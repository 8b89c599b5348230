import { describe, expect, it } from "vitest";

import aura from "./aura";

const files = import.meta.glob<string>("../**/*.{vue,ts}", { query: "?raw", import: "default", eager: true });
/** Parts of a component that another one names, and what draws nothing. */
const WITH_ANOTHER =
  /^(accordion|splitter|tab)(panels?|header|content|list)$|^(tab|column|menuitem|treenode|config)$|service$|^use/;

describe("the theme", () => {
  it("has every component that the page uses", () => {
    const used = Object.values(files).flatMap((one) =>
      [...one.matchAll(/from "primevue\/([a-z]+)"/g)].map((found) => found[1]!),
    );
    const components = [...new Set(used)].filter((one) => !WITH_ANOTHER.test(one));
    expect(components.length).toBeGreaterThan(20);
    expect(components.filter((one) => !(one in aura.components))).toEqual([]);
  });
});
