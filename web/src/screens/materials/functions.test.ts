import { DOMWrapper } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h, ref } from "vue";

import type { DrawnOut, FunctionDocument, LibraryFunction } from "@/api/functions";
import type { Cast, MasterDocument, Operation, Sheet, SheetRow, SheetSlot } from "@/api/materials";
import { button, choose, mounted, serve, until } from "@/tests/mounting";

import FunctionInputs from "./FunctionInputs.vue";
import FunctionList from "./FunctionList.vue";
import FunctionView from "./FunctionView.vue";
import MakeFunctionDialog from "./MakeFunctionDialog.vue";
import { sampleSources } from "./previewMaterials";
import SheetFunctions from "./SheetFunctions.vue";
import { emptyFunction } from "./takes";
import { provideSheetFunctions } from "./useSheetFunctions";

afterEach(() => {
  vi.unstubAllGlobals();
  document.body.innerHTML = "";
});

const WET: FunctionDocument = {
  format: "fair-texel/function",
  version: 1,
  name: "wet",
  title: "Wet",
  inputs: [
    { name: "colour", takes: "vector3" },
    { name: "amount", takes: "number", default: "0.5" },
  ],
  result: "colour * amount",
};
const operation = {
  name: "wet",
  label: "Wet",
  group: "Functions",
  arguments: ["colour", "amount"],
  variadic: false,
  help: "",
  example: "wet(colour, amount)",
  begins_with: ["0.5"],
  maps: [],
} as Operation;
const row = {
  name: "base_color",
  label: "Base color",
  is_input: true,
  origin: null,
  chain: { start: "bark", steps: [{ step: "multiply", others: ["2"] }] },
} as unknown as SheetRow;
const sheet = (number = "1.0.0", remarks: object[] = []): Sheet =>
  ({
    name: "wet",
    title: "Wet",
    slots: [{ name: "bark" }],
    parameters: [],
    rows: [],
    remarks,
    functions: number ? [{ name: "wet", title: "Wet", number, operation, document: WET }] : [],
  }) as unknown as Sheet;
const stored = (more: Partial<LibraryFunction> = {}) => ({
  name: "wet",
  title: "Wet",
  help: "darker",
  newest: "1.1.0",
  draft: false,
  operation,
  uses: 2,
  revision: 1,
  keepers: ["ada"],
  document: WET,
  versions: [],
  may_write: true,
  used_by: [{ master: "stone", title: "Stone", number: "1.0.0" }],
  ...more,
});
const master: MasterDocument = {
  format: "fair-texel/master",
  version: 1,
  name: "stone",
  inputs: { base_color: "bark * 2" },
};

describe("the functions of a sheet", () => {
  const shown = (one: Sheet, newest: string) =>
    mounted(SheetFunctions, {
      slug: "quay",
      sheet: one,
      newer: () => (newest ? stored({ newest }) : null),
      mayWrite: true,
    });

  it("tell a newer version, and bring it in when asked", async () => {
    const strip = shown(sheet(), "1.1.0");
    expect(strip.text()).toContain("1.0.0, where the library has 1.1.0");
    await button(strip, "Update to 1.1.0").trigger("click");
    expect(strip.emitted("update")).toEqual([["wet"]]);
  });

  it("can be taken out where nothing calls them", async () => {
    const idle = { check: "unused_function", about: "wet", row: "" };
    const strip = shown(sheet("1.0.0", [idle]), "");
    await strip.find("[aria-label='Take Wet out of the sheet']").trigger("click");
    expect(strip.emitted("remove")).toEqual([["wet"]]);
  });

  it("say that they are of this sheet alone, or nothing where there is none", () => {
    const own = { ...sheet().functions[0]!, number: "" };
    expect(shown({ ...sheet(), functions: [own] }, "").text()).toContain("of this sheet alone");
    expect(shown(sheet(""), "").text()).toBe("");
  });
});

describe("a sheet that is edited", () => {
  function provided(replace: (document: MasterDocument) => Promise<void>, of = sheet("")) {
    let made!: ReturnType<typeof provideSheetFunctions>;
    const inner = defineComponent(() => {
      made = provideSheetFunctions(ref(master), ref(of), replace);
      return () => h("i");
    });
    mounted(inner, {});
    return made;
  }

  it("carries a function of the library before a row calls it", async () => {
    const carrying = { ...master, functions: [{ ...WET, number: "1.1.0" }] };
    serve({
      "GET /api/functions": [stored()],
      "POST /api/functions/wet/into": carrying,
      "POST /api/masters/chain": { text: "wet(bark * 2, 0.5)" },
    });
    const replace = vi.fn().mockResolvedValue(undefined);
    const made = provided(replace);
    await until(() => expect(made.offered.value).toHaveLength(1));
    await made.take({ function: WET, document: carrying, rows: [] }, "1.2.0");
    expect((replace.mock.calls[0]![0] as MasterDocument).functions![0]!.number).toBe("1.2.0");
    await made.update("wet");
    expect(replace.mock.calls[1]![0]).toEqual(carrying);
  });

  it("offers none that it carries, and knows which is older", async () => {
    serve({ "GET /api/functions": [stored()] });
    const made = provided(vi.fn(), sheet());
    await until(() => expect(made.newer(sheet().functions[0]!)?.newest).toBe("1.1.0"));
    expect(made.offered.value).toEqual([]);
    expect(made.newer({ ...sheet().functions[0]!, number: "1.1.0" })).toBeNull();
  });
});

describe("making a function of a row", () => {
  const drawn: DrawnOut = { function: WET, document: master, rows: ["base_color", "worn"] };

  it("shows what it would take and where it would be called before it is made", async () => {
    const tried = vi.fn().mockResolvedValue(drawn);
    const dialog = mounted(MakeFunctionDialog, { row, operations: [], tried, busy: false });
    const body = new DOMWrapper(document.body);
    await until(() => expect(body.find("input[maxlength='60']").exists()).toBe(true));
    await body.find("input[maxlength='60']").setValue("Wet");
    await until(() => expect(body.find("[data-test=drawn]").text()).toContain("2 rows will call it"));
    expect(tried).toHaveBeenLastCalledWith({ title: "Wet", first: 0, last: 0, numbers: false });
    expect(body.find("[data-test=drawn]").text()).toContain("three numbers");
    await body.find("form").trigger("submit");
    expect(dialog.emitted("make")).toEqual([[drawn]]);
  });

  it("says why it cannot be made", async () => {
    const tried = vi.fn().mockRejectedValue(new Error("choose another name"));
    mounted(MakeFunctionDialog, { row, operations: [], tried, busy: false });
    const body = new DOMWrapper(document.body);
    await until(() => expect(body.find("input[maxlength='60']").exists()).toBe(true));
    await body.find("input[maxlength='60']").setValue("Noise");
    await until(() => expect(body.text()).toContain("choose another name"));
  });
});

describe("the inputs of a function", () => {
  const shown = (mayWrite = true) => mounted(FunctionInputs, { document: WET, mayWrite });
  const edited = (inputs: ReturnType<typeof shown>) => {
    const next = JSON.parse(JSON.stringify(WET)) as FunctionDocument;
    (inputs.emitted("change")!.at(-1)![0] as (document: FunctionDocument) => void)(next);
    return next.inputs;
  };

  it("are added, moved, told what they take, and taken out", async () => {
    const inputs = shown();
    await inputs.find("input[aria-label='Name of a new input']").setValue("dirt");
    await inputs.find("input[aria-label='Name of a new input']").trigger("blur");
    expect(edited(inputs).map((one) => one.name)).toEqual(["colour", "amount", "dirt"]);
    await inputs.find("[aria-label='Move amount up']").trigger("click");
    expect(edited(inputs).map((one) => one.name)).toEqual(["amount", "colour"]);
    await choose(inputs, "What amount takes", "two numbers");
    expect(edited(inputs)[1]!.takes).toBe("vector2");
    await inputs.find("[aria-label='Remove the input amount']").trigger("click");
    expect(edited(inputs)).toHaveLength(1);
  });

  it("are only read by those who do not keep it", () => {
    expect(shown(false).findAll("button")).toHaveLength(0);
  });
});

describe("functions of the library", () => {
  it("are listed with what they take and how many masters use them", async () => {
    serve({ "GET /api/functions": [stored()] });
    const list = mounted(FunctionList, { slug: "quay", words: "" });
    await until(() => expect(list.text()).toContain("wet(colour, amount)"));
    expect(list.text()).toContain("in 2 masters");
    await button(list, "New function").trigger("click");
    expect(list.emitted("begin")).toHaveLength(1);
  });

  it("begin as what gives back what flows in, under a name made of the title", () => {
    expect(emptyFunction("Worn by Edges!").name).toBe("worn_by_edges");
    expect(emptyFunction("2nd coat").name).toBe("f_2nd_coat");
  });

  it("are looked at with the colours of a cast", () => {
    const slots = [
      { name: "value", role: "base_color", colour_space: "srgb", default: "mid", is_normal: false },
      { name: "dirt", role: "detail_mask", colour_space: "linear", default: "mid", is_normal: false },
    ] as unknown as SheetSlot[];
    const cast = {
      sheet: { slots: [{ name: "bark", role: "base_color" }] },
      fills: [{ slot: "bark", set: 4, version: 2 }],
    };
    const found = sampleSources("quay", slots, cast as unknown as Cast);
    expect(found.value!.url).toContain("set=4");
    expect(found.dirt!.url).toBeNull();
    expect(sampleSources("quay", slots, null).value!.url).toBeNull();
  });

  it("show the masters that use them, and why they cannot be read", async () => {
    serve({
      "GET /api/functions/wet": stored(),
      "GET /api/masters/catalogue": { inputs: [], operations: [], starts: [] },
      "POST /api/functions/read": {
        problem: { message: "there is no colour above this row", row: "", start: 0, end: 0 },
        sheet: null,
      },
    });
    const view = mounted(FunctionView, { slug: "quay", name: "wet", casts: [] });
    await until(() => expect(view.text()).toContain("there is no colour above this row"));
    expect(view.find("[data-test=uses]").text()).toContain("Stone 1.0.0");
  });
});
