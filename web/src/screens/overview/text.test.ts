import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it } from "vitest";

import { readFolder } from "@/api/projectText";
import FilePick from "@/parts/FilePick.vue";
import { choose, leave, mounted, serve, until } from "@/tests/mounting";

import ProjectText from "./ProjectText.vue";

function file(path: string, content: unknown): File {
  const text = typeof content === "string" ? content : JSON.stringify(content);
  const made = new File([text], path.split("/").at(-1)!);
  Object.defineProperty(made, "webkitRelativePath", { value: path });
  return made;
}
const FOLDER = [
  file("work/text/project.json", { name: "Ferry" }),
  file("work/text/sets/deck.json", '\uFEFF{"name": "deck"}'),
  file("work/text/exported.json", { parts: { "sets/deck": "d1" } }),
  file("work/text/sets/notes.txt", "no document"),
  file("work/text/.git/x.json", "no document"),
  file("work/other/sets/hull.json", { name: "hull" }),
];

describe("a folder that is chosen", () => {
  it("gives its documents and nothing else, wherever in it they lie", async () => {
    expect(await readFolder(FOLDER)).toEqual({
      documents: { "project.json": { name: "Ferry" }, "sets/deck.json": { name: "deck" } },
      exported: { "sets/deck": "d1" },
    });
  });

  it("is refused where it holds no project, or what is no document", async () => {
    await expect(readFolder([file("a/deck.png", "x")])).rejects.toThrow("There is no project.json");
    const odd = [file("a/project.json", {}), file("a/sets/deck.json", "[1]")];
    await expect(readFolder(odd)).rejects.toThrow("sets/deck.json is no JSON document.");
  });
});

describe("a project as text", () => {
  let page: ReturnType<typeof mounted>;
  afterEach(() => leave(page));
  const difference = { path: "licence", before: "", after: "CC0-1.0" };
  const compared = (key: string, state: string) => ({
    key,
    path: `${key}.json`,
    state,
    here: true,
    studio: true,
    differences: [difference],
  });
  const inDocument = (selector: string) => document.querySelector<HTMLElement>(selector)!;
  const button = (words: string) =>
    [...document.querySelectorAll<HTMLButtonElement>("button")].find((one) =>
      one.textContent.includes(words),
    )!;

  it("asks about what both sides changed, and brings in the rest as one change", async () => {
    const calls = serve({
      "POST /api/projects/ferry/text/compare": [
        compared("sets/deck", "changed on both sides"),
        compared("sets/hull", "changed here"),
        compared("sets/mast", "changed in the studio"),
      ],
      "POST /api/projects/ferry/text": { applied: ["sets/deck", "sets/hull"], conflicts: [], parts: [] },
    });
    page = mounted(ProjectText, { slug: "ferry", mayChange: true, shown: true });
    await flushPromises();
    page.findComponent(FilePick).vm.$emit("files", FOLDER);
    await until(() => expect(inDocument("[data-text='sets/deck']").textContent).toContain("CC0-1.0"));
    expect(button("Bring in 1 document").disabled).toBe(true);
    await choose(page, "Which holds for sets/deck.json", "Take the folder's");
    button("Bring in 2 documents").click();
    await until(() => expect(calls.filter((one) => one.path.endsWith("/text"))).toHaveLength(1));
  });

  it("only shows what differs to those who may not change it", async () => {
    serve({ "POST /api/projects/ferry/text/compare": [compared("sets/deck", "changed on both sides")] });
    page = mounted(ProjectText, { slug: "ferry", mayChange: false, shown: true });
    await flushPromises();
    page.findComponent(FilePick).vm.$emit("files", FOLDER);
    await until(() => expect(inDocument("[data-text='sets/deck']")).toBeTruthy());
    expect(button("Bring in")).toBeUndefined();
  });
});
