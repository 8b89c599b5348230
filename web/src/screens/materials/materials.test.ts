import { flushPromises } from "@vue/test-utils";
import Slider from "primevue/slider";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Operation, Sheet, SheetParameter, SheetRow, SheetSlot } from "@/api/materials";
import { withSheet } from "@/preview/sheetShader";
import { button, giveNumber, mounted, serve } from "@/tests/mounting";
import { STAGES } from "@/tests/stages";

import ParameterControl from "./ParameterControl.vue";
import SheetRows from "./SheetRows.vue";
import { colourOf, documentValue, hexOf, plainOf, sliderOf } from "./values";

afterEach(() => vi.unstubAllGlobals());

const parameter = (more: Partial<SheetParameter> = {}): SheetParameter => ({
  name: "relief",
  kind: "number",
  title: "Relief",
  default: [1],
  group: "",
  help: "",
  low: 0,
  high: 4,
  soft_low: null,
  soft_high: null,
  step: null,
  unit: "",
  options: [],
  ...more,
});
const row = (name: string, more: Partial<SheetRow> = {}): SheetRow => ({
  name,
  label: name,
  is_input: true,
  text: "pack.g * relief",
  chain: { start: "pack.g", steps: [{ step: "multiply", letters: null, others: ["relief"] }] },
  reads: ["pack", "relief"],
  size: 1,
  meaning: "data",
  origin: null,
  ...more,
});
const OPERATIONS: Operation[] = [
  {
    name: "multiply",
    label: "Multiply",
    group: "Arithmetic",
    arguments: ["value", "by"],
    variadic: false,
    help: "",
    example: "a * b",
    begins_with: ["1"],
    maps: [],
  },
];
const sheet = (more: Partial<Sheet> = {}): Sheet => ({
  name: "solid",
  title: "Solid",
  help: "",
  slots: [],
  parameters: [parameter(), parameter({ name: "tiling", kind: "vector", title: "Tiling", default: [1, 1] })],
  rows: [row("roughness"), row("metallic", { reads: ["pack", "relief"] })],
  layered: false,
  moves: false,
  functions: [],
  opacity_mode: "opaque",
  cut_off: 0.5,
  remarks: [],
  cost: { reads: 1, samplers: 1, arithmetic: 2, variants: 1 },
  shader: null,
  ...more,
});

describe("values", () => {
  it("become what documents hold", () => {
    expect(documentValue(parameter({ kind: "switch" }), [1])).toBe(true);
    expect(documentValue(parameter({ kind: "choice", options: ["dry", "wet"] }), [1])).toBe("wet");
    expect(documentValue(parameter(), [2])).toBe(2);
    expect(documentValue(parameter({ kind: "vector" }), [1, 2])).toEqual([1, 2]);
  });

  it("go through the browser's colour field and back", () => {
    // IEC 61966-2-1: a linear half is stored as 188.
    expect(hexOf([0.5, 0, 1])).toBe("#bc00ff");
    expect(colourOf("#bc00ff")[0]).toBeCloseTo(0.5029, 3);
    expect(hexOf(colourOf("#123456"))).toBe("#123456");
  });

  it("slide between soft limits, else hard ones", () => {
    expect(sliderOf(parameter())).toMatchObject({ low: 0, high: 4 });
    expect(sliderOf(parameter({ soft_high: 2 })).high).toBe(2);
    expect(sliderOf(parameter({ low: null, high: null, default: [5] }))).toMatchObject({ low: 0, high: 10 });
  });

  it("stand in for maps that are not there", () => {
    const slot = { default: "mid", is_normal: false } as Parameters<typeof plainOf>[0];
    expect(plainOf(slot).plain).toEqual([0.5, 0.5, 0.5, 1]);
    expect(plainOf({ ...slot, is_normal: true }).plain).toEqual([0.5, 0.5, 1, 1]);
  });
});

describe("a parameter", () => {
  const shown = (more: Record<string, unknown> = {}) =>
    mounted(ParameterControl, {
      parameter: parameter(),
      value: [1],
      changed: false,
      inherited: false,
      mayChange: true,
      ...more,
    });

  it("tells every move, and is kept when it is let go or typed, within its limits", async () => {
    const control = shown();
    const slider = control.findComponent(Slider);
    slider.vm.$emit("update:modelValue", 2);
    expect(control.emitted("move")![0]).toEqual([[2]]);
    expect(control.emitted("keep")).toBeUndefined();
    slider.vm.$emit("slideend", {});
    expect(control.emitted("keep")!.at(-1)).toEqual([[2]]);
    await giveNumber(control, "Relief, number", 9);
    expect(control.emitted("keep")!.at(-1)).toEqual([[4]]);
  });

  it("can be reset only where it was changed", async () => {
    expect(shown().find("button").exists()).toBe(false);
    const control = shown({ changed: true });
    await button(control, "Reset Relief").trigger("click");
    expect(control.emitted("back")).toHaveLength(1);
    expect(shown({ inherited: true }).text()).toContain("inherited");
  });
});

describe("a sheet", () => {
  const shown = (more: Record<string, unknown> = {}) =>
    mounted(SheetRows, {
      sheet: sheet(),
      operations: OPERATIONS,
      values: {},
      changed: [],
      inherited: [],
      mayChange: true,
      mayWrite: true,
      problem: null,
      ...more,
    });

  it("shows each parameter once, beside the first row that reads it, the rest under coordinates", () => {
    const rows = shown();
    expect(rows.findAll("[data-parameter=relief]")).toHaveLength(1);
    expect(rows.get("[data-row=roughness]").find("[data-parameter=relief]").exists()).toBe(true);
    expect(rows.get("[aria-label=Coordinates]").find("[data-parameter=tiling]").exists()).toBe(true);
    expect(rows.get("[data-row=roughness]").text()).toContain("multiply");
  });

  it("finds parameters by their words", () => {
    expect(shown({ search: "til" }).findAll("[data-parameter]")).toHaveLength(1);
  });

  it("writes a remedy, and says a problem where it lies even when the row is closed", async () => {
    const remark = {
      check: "leaves_range",
      severity: "warning" as const,
      message: "too far",
      row: "roughness",
      start: 0,
      end: 1,
      about: "",
      remedy: "clamp(pack.g, 0, 1)",
    };
    const rows = shown({
      sheet: sheet({ remarks: [remark] }),
      problem: { message: "there is no bump", row: "metallic", start: 0, end: 4 },
    });
    await button(rows, "Change to clamp(pack.g, 0, 1)").trigger("click");
    expect((rows.emitted("write")![0] as [SheetRow, string])[1]).toBe("clamp(pack.g, 0, 1)");
    expect(rows.get("[data-row=metallic] [role=alert]").text()).toBe("there is no bump");
  });

  it("asks the server for the text of a chain that was changed step by step", async () => {
    const calls = serve({ "POST /api/masters/chain": { text: "pack.g" } });
    const rows = shown();
    await button(rows, "Edit roughness").trigger("click");
    await button(rows, "Remove this step").trigger("click");
    await flushPromises();
    expect(calls.find((one) => one.body)!.body).toEqual({ start: "pack.g", steps: [], functions: [] });
    expect((rows.emitted("write")![0] as [SheetRow, string])[1]).toBe("pack.g");
  });

  it("groups a layered sheet, and folds what follows from stacking", async () => {
    const origin = { layer: "mud", row: "roughness", is_input: true };
    const layered = sheet({
      layered: true,
      rows: [
        row("mud_roughness", { origin, is_input: false, reads: [] }),
        row("roughness", { reads: [] }),
        row("mud_weight", { is_input: false }),
      ],
    });
    const rows = shown({ sheet: layered });
    expect(rows.findAll("h3").map((one) => one.text())).toEqual([
      "mud",
      expect.stringContaining("How the layers are stacked"),
    ]);
    expect(rows.find("[data-row=roughness]").exists()).toBe(false);
    expect(rows.find("[data-row=mud_weight]").exists()).toBe(true);
    await rows.get("h3 button").trigger("click");
    expect(rows.find("[data-row=roughness]").exists()).toBe(true);
  });
});

describe("the surface's shader", () => {
  const slot = (more: Partial<SheetSlot>) =>
    ({ name: "pack", layout: "orm", colour_space: "linear", ...more }) as SheetSlot;
  const shader = { code: "FtSurface ft_surface(vec2 a, vec2 b, vec4 c);", uniforms: [], samplers: {} };

  it("takes the sheet's own code in place of the renderer's maps", () => {
    const made = withSheet(shader, [], STAGES);
    expect(made.fragmentShader).toContain(shader.code);
    expect(made.fragmentShader).toContain("ft.roughness");
    expect(made.fragmentShader).not.toContain("#include <aomap_fragment>");
  });

  it("can read each slot wrongly, as its colour space and layout let it be", () => {
    const code = "  vec4 s_pack = texture(m_pack, c_main);\n";
    const read = (more: Partial<SheetSlot>) =>
      withSheet({ ...shader, code }, [slot(more)], STAGES).fragmentShader;
    expect(read({})).toContain("if (ftMisread == 1) s_pack.rgb = ftDecode(s_pack.rgb)");
    expect(read({})).toContain("s_pack.rgb = s_pack.bgr");
    expect(read({ layout: null })).not.toContain("s_pack.bgr");
    expect(read({ colour_space: "srgb" })).toContain("ftEncode(s_pack.rgb)");
    expect(read({ is_normal: true })).toContain("if (ftMisread == 2) s_pack.rgb = ftDecode");
  });

  it("says so when the renderer's parts have other names", () => {
    expect(() => withSheet(shader, [], { ...STAGES, vertexShader: "" })).toThrow("no part common");
  });
});
