import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import type { OutputDocument } from "@/api/rules";
import CheckField from "@/parts/fields/CheckField.vue";
import {
  aMap,
  aSet,
  button,
  choose,
  giveNumber,
  mounted,
  Newer,
  ROLES,
  serve,
  standInForBrowser,
  until,
} from "@/tests/mounting";

import OutputEditor from "./OutputEditor.vue";
import TargetsPart from "./TargetsPart.vue";
import VersionList from "./VersionList.vue";

let page: ReturnType<typeof mounted>;
beforeEach(() => {
  standInForBrowser();
  URL.createObjectURL = () => "blob:tried";
});
afterEach(() => {
  page.unmount();
  forgetChanges();
  document.body.innerHTML = "";
  vi.unstubAllGlobals();
});

const ORM: OutputDocument = {
  output: "orm",
  channels: { r: { role: "occlusion" }, g: { role: "roughness" }, b: { role: "metallic" } },
  colour_space: "linear",
  container: "png",
  bits: 16,
};
const COLOUR: OutputDocument = {
  output: "color",
  channels: { r: { role: "base_color", channel: "r" } },
  colour_space: "srgb",
  container: "png",
  bits: 8,
};
const target = (more = {}) => ({
  format: "fair-texel/target",
  version: 1,
  name: "sheltered",
  title: "Sheltered",
  green: "up",
  names: { pattern: "{set}_{output}" },
  outputs: [COLOUR, ORM],
  ...more,
});
const rule = (more = {}) => ({
  name: "sheltered",
  title: "Sheltered",
  number: 2,
  own: true,
  origin: null,
  document: target(),
  ...more,
});
const FORMATS = [
  { key: "bc1", label: "BC1", family: "bc", channels: "rgb", bits_per_texel: 4, sorts: [] },
  { key: "bc4", label: "BC4", family: "bc", channels: "r", bits_per_texel: 4, sorts: [] },
];
const CATALOGUE = {
  containers: [
    { name: "png", blocks: false, bits: [8, 16] },
    { name: "jpg", blocks: false, bits: [8] },
    { name: "ktx2", blocks: true, bits: [] },
  ],
  formats: FORMATS,
  families: [{ key: "bc", title: "BC" }],
  usual_formats: { 1: "bc4", 3: "bc1" },
};

describe("an output of a target", () => {
  async function shown(output: OutputDocument, mayChange = true) {
    serve({ "GET /api/catalogue": CATALOGUE });
    page = mounted(OutputEditor, {
      slug: "ferry",
      sample: null,
      target: target(),
      output,
      roles: ROLES,
      mayChange,
    });
    await flushPromises();
    return () => (page.emitted("change")!.at(-1) as [OutputDocument])[0];
  }

  it("keeps the depth that another container has as well, and takes the nearest one otherwise", async () => {
    const told = await shown(ORM);
    await choose(page, "File format", "JPG");
    expect(told()).toMatchObject({ container: "jpg", bits: 8 });
    expect(told()).not.toHaveProperty("format");
  });

  it("is compressed as is usual for its channels once its container holds blocks", async () => {
    const told = await shown(ORM);
    await choose(page, "File format", "KTX2");
    expect(told()).toEqual({
      ...{ output: "orm", channels: ORM.channels, colour_space: "linear" },
      ...{ container: "ktx2", format: "bc1", quality: "normal", mips: true },
    });
  });

  it("offers dithering for 8 bits only, and writes it down only where it is on", async () => {
    const told = await shown(COLOUR);
    const dither = () => page.findAllComponents(CheckField).find((one) => one.text().includes("ither"));
    dither()!.vm.$emit("update:modelValue", true);
    expect(told()).toMatchObject({ dither: true });
    dither()!.vm.$emit("update:modelValue", false);
    expect(told()).not.toHaveProperty("dither");
    await page.setProps({ output: ORM });
    expect(dither()).toBeUndefined();
  });

  it("may have a longest side of its own, or none", async () => {
    const told = await shown(ORM);
    await giveNumber(page, "Longest side of the output", 512);
    expect(told().largest).toBe(512);
    await page.setProps({ output: { ...ORM, largest: 512 } });
    await giveNumber(page, "Longest side of the output", null);
    expect(told()).not.toHaveProperty("largest");
  });
});

describe("the targets", () => {
  async function shown({ mayRule = true, ...answers }: Record<string, unknown> = {}) {
    const calls = serve({
      "GET /api/projects/ferry/rules/target": [
        rule(),
        rule({ name: "open", title: "Open", own: false, number: 0 }),
      ],
      "GET /api/projects/ferry/sets": {
        ...{ roles: ROLES, tiled: [], undecided: [], undo: null, redo: null },
        sets: [aSet([aMap("roughness")])],
      },
      "GET /api/catalogue": CATALOGUE,
      "PUT /api/projects/ferry/rules/target/sheltered": (document: unknown) => rule({ number: 3, document }),
      ...answers,
    });
    const project = { slug: "ferry", name: "Ferry", target: "sheltered", right: "rules" };
    page = mounted(TargetsPart, { slug: "ferry", project, mayRule, mayPrepare: true });
    await until(() => expect(page.find("[data-rule=open]").exists()).toBe(true));
    await flushPromises();
    return calls;
  }
  const outputs = () =>
    page
      .get("[aria-label=Outputs]")
      .findAll("button")
      .map((one) => one.text());

  it("say which of them is in use, and open that one at its packed output", async () => {
    await shown();
    expect(page.get("[data-rule=sheltered]").text()).toContain("version 2, in use");
    expect(page.get("[data-rule=open]").text()).not.toContain("version");
    expect(page.get<HTMLInputElement>("[aria-label='Name of the output']").element.value).toBe("orm");
  });

  it("get outputs of names that are free, lose them, and are saved as the next version", async () => {
    const calls = await shown();
    await button(page, "Add an output").trigger("click");
    await button(page, "Add an output").trigger("click");
    expect(outputs()).toEqual(["color", "orm", "output1", "output2"]);
    await button(page, "Remove this output").trigger("click");
    await button(page, "Save as version 3").trigger("click");
    await flushPromises();
    const sent = calls.find((one) => one.method === "PUT")!.body as { outputs: OutputDocument[] };
    expect(sent.outputs.map((one) => one.output)).toEqual(["color", "orm", "output1"]);
  });

  it("let go of what was changed, and cannot be changed without the right", async () => {
    await shown();
    await button(page, "Add an output").trigger("click");
    expect(page.text()).toContain("Not saved");
    await button(page, "Discard").trigger("click");
    expect(outputs()).toEqual(["color", "orm"]);
    page.unmount();
    await shown({ mayRule: false });
    expect(page.findAll("button").map((one) => one.text())).not.toContain("Add an output");
  });

  it("take in what somebody else saved in other places meanwhile", async () => {
    let asked = 0;
    const calls = await shown({
      "PUT /api/projects/ferry/rules/target/sheltered": (document: unknown) =>
        (asked += 1) === 1
          ? new Newer(rule({ number: 3, document: target({ green: "down" }) }))
          : rule({ number: 4, document }),
    });
    await button(page, "Add an output").trigger("click");
    await button(page, "Save as version 3").trigger("click");
    await until(() => expect(asked).toBe(2));
    const sent = calls.filter((one) => one.method === "PUT").at(-1)!.body as ReturnType<typeof target>;
    expect(sent.green).toBe("down");
    expect(sent.outputs).toHaveLength(3);
  });
});

describe("the versions of a rule", () => {
  it("say by whom each was made and what it changed; the first has nothing before it", async () => {
    serve({
      "GET /api/projects/ferry/rules/target/sheltered/versions": [
        { number: 2, by: "ada", created: "2026-11-02T10:00:00Z" },
        { number: 1, by: null, created: "2026-11-01T10:00:00Z" },
      ],
      "GET /api/projects/ferry/rules/target/sheltered/difference": [
        { path: "green", before: "up", after: null },
      ],
    });
    page = mounted(VersionList, { slug: "ferry", kind: "target", rule: rule() });
    await until(() => expect(page.findAll("button")).toHaveLength(2));
    expect(page.text()).toContain(", ada");
    await page.findAll("button")[0]!.trigger("click");
    await flushPromises();
    expect(page.get("dl").text()).toContain('green"up" → nothing');
    await page.findAll("button")[1]!.trigger("click");
    await flushPromises();
    expect(page.find("dl").exists()).toBe(false);
    expect(page.text()).toContain("first version");
  });
});
