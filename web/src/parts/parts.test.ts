import { flushPromises } from "@vue/test-utils";
import InputNumber from "primevue/inputnumber";
import Select from "primevue/select";
import Slider from "primevue/slider";
import { describe, expect, it, vi } from "vitest";
import { h } from "vue";

import { ApiError } from "@/api/client";
import { offline } from "@/api/events";
import { aMap, button, choose, mounted } from "@/tests/mounting";

import ChoiceField from "./fields/ChoiceField.vue";
import ColourField from "./fields/ColourField.vue";
import NumberField from "./fields/NumberField.vue";
import PickAction from "./fields/PickAction.vue";
import SliderField from "./fields/SliderField.vue";
import TextField from "./fields/TextField.vue";
import FilePick from "./FilePick.vue";
import Print from "./Print.vue";
import StateView from "./StateView.vue";

describe("a line of text", () => {
  it("is told when it is finished, once, and only when it is another", async () => {
    const field = mounted(TextField, { value: "deck", label: "Name" });
    const input = field.get("input");
    await input.trigger("focus");
    await input.setValue("pier");
    expect(field.emitted("change")).toBeUndefined();
    await input.trigger("keydown", { key: "Enter" });
    await field.setProps({ value: "pier" });
    await input.trigger("blur");
    expect(field.emitted("change")).toEqual([["pier"]]);
  });

  it("keeps what is being typed while the page is drawn anew, and takes others' text after", async () => {
    const field = mounted(TextField, { value: "deck" });
    const input = field.get("input");
    await input.trigger("focus");
    await input.setValue("pi");
    await field.setProps({ value: "by somebody else" });
    expect(input.element.value).toBe("pi");
    await input.trigger("keydown", { key: "Escape" });
    expect(input.element.value).toBe("by somebody else");
    await input.trigger("blur");
    expect(field.emitted("change")).toBeUndefined();
  });

  it("is empty after each text that it adds, and adds no blanks", async () => {
    const field = mounted(TextField, { value: "", clears: true });
    const input = field.get("input");
    for (const text of ["MIT", "   "]) {
      await input.setValue(text);
      await input.trigger("keydown", { key: "Enter" });
      expect(input.element.value).toBe("");
    }
    expect(field.emitted("change")).toEqual([["MIT"]]);
  });
});

describe("a number", () => {
  const give = (field: ReturnType<typeof mounted>, value: number | null) =>
    field.getComponent(InputNumber).vm.$emit("update:modelValue", value);

  it("is told when it changes; empty only where that is allowed", () => {
    const needed = mounted(NumberField, { value: 4, label: "Metres" });
    give(needed, 4);
    give(needed, null);
    give(needed, 5);
    expect(needed.emitted("change")).toEqual([[5]]);
    const optional = mounted(NumberField, { value: 4, optional: true });
    give(optional, null);
    expect(optional.emitted("change")).toEqual([[null]]);
  });

  it("under the hand tells each step, and is kept once where it is let go", async () => {
    const slider = mounted(SliderField, { value: 0.5, low: 0, high: 1, label: "Strength" });
    const hand = slider.getComponent(Slider);
    hand.vm.$emit("update:modelValue", 0.6);
    hand.vm.$emit("update:modelValue", 0.7);
    expect(slider.emitted("move")).toEqual([[0.6], [0.7]]);
    expect(slider.emitted("keep")).toBeUndefined();
    hand.vm.$emit("slideend");
    await hand.trigger("keyup");
    expect(slider.emitted("keep")).toEqual([[0.7]]);
  });

  it("follows the curve that stands between the hand and the value", () => {
    const curve = { toShare: (value: number) => Math.sqrt(value), fromShare: (share: number) => share ** 2 };
    const slider = mounted(SliderField, { value: 0.25, low: 0, high: 1, label: "Strength", ...curve });
    expect(slider.getComponent(Slider).props("modelValue")).toBe(0.5);
    slider.getComponent(Slider).vm.$emit("update:modelValue", 0.9);
    expect((slider.emitted("move")![0] as number[])[0]).toBeCloseTo(0.81);
  });

  it("of a colour is typed with or without its sign; what is none is not told", async () => {
    const field = mounted(ColourField, { value: "#102030", label: "Tint" });
    const input = field.get("[aria-label='Tint, hexadecimal']");
    for (const text of ["AABBCC", "#xyzxyz", "#12345"]) {
      await input.setValue(text);
      await input.trigger("keydown", { key: "Enter" });
    }
    expect(field.emitted("keep")).toEqual([["#aabbcc"]]);
  });
});

describe("a choice", () => {
  it("may be the empty text, which is a value like others", async () => {
    const options = [
      { value: "", label: "None" },
      { value: "snake", label: "snake_case" },
    ];
    const field = mounted(ChoiceField, { modelValue: "snake", options, label: "Case" });
    await choose(field, "Case", "None");
    expect(field.emitted("update:modelValue")).toEqual([[""]]);
  });

  it("can be searched once the list is long", () => {
    const list = (count: number) => Array.from({ length: count }, (_, at) => ({ value: at, label: `${at}` }));
    const filtered = (count: number) =>
      mounted(ChoiceField, { modelValue: 0, options: list(count), label: "One" })
        .getComponent(Select)
        .props("filter");
    expect([filtered(12), filtered(13)]).toEqual([false, true]);
  });

  it("from which something is done stays unchosen", async () => {
    const field = mounted(PickAction, { options: [{ value: "flip", label: "Flip" }], label: "Add a step" });
    await choose(field, "Add a step", "Flip");
    await choose(field, "Add a step", "Flip");
    expect(field.emitted("pick")).toEqual([["flip"], ["flip"]]);
    expect(field.getComponent(Select).props("modelValue")).toBeNull();
  });

  it("of files tells them, and can be made twice of the same", async () => {
    const pick = mounted(FilePick, { label: "Choose files" });
    const input = pick.get("input");
    const file = new File(["x"], "a.png");
    Object.defineProperty(input.element, "files", { value: [file] });
    await input.trigger("change");
    expect(pick.emitted("files")).toEqual([[[file]]]);
    expect(input.element.value).toBe("");
  });
});

describe("what stands where data will stand", () => {
  const view = (data: unknown, error: Error | null, more = {}) => {
    const refetch = vi.fn();
    const query = { data: { value: data }, error: { value: error }, refetch };
    const slots = { default: () => h("p", "content"), empty: () => h("p", "nothing yet") };
    const shown = mounted({ render: () => h(StateView, { query, ...more }, slots) });
    return { shown, refetch };
  };

  it("is shapes, then the content, or what to do where there is none", () => {
    expect(view(null, null, { rows: 3 }).shown.findAll(".p-skeleton")).toHaveLength(3);
    expect(view([], null).shown.text()).toBe("content");
    expect(view([], null, { empty: true }).shown.text()).toBe("nothing yet");
  });

  it("says why it cannot be shown, and tries again, but not without the right", async () => {
    const failed = view(null, new Error("The server does not answer."));
    await button(failed.shown, "Try again").trigger("click");
    expect(failed.refetch).toHaveBeenCalledOnce();
    const refused = view(null, new ApiError(403, "Ask somebody who sets the rules.")).shown;
    expect(refused.text()).toContain("You do not have the right to see this.");
    expect(refused.find("button").exists()).toBe(false);
  });

  it("stays while the server is away, and says that it may be old", async () => {
    offline.value = true;
    const { shown } = view([1], null);
    await flushPromises();
    expect(shown.text()).toContain("may be out of date");
    expect(shown.text()).toContain("content");
    offline.value = false;
  });
});

describe("a small picture", () => {
  it("marks guesses, channels and steps, and says what it is", () => {
    const step = { step: "flip_green", label: "Flip green", off: false, options: {} };
    const print = mounted(Print, {
      slug: "ferry",
      map: aMap("roughness", { confidence: 0.6, channel: "g", recipe: [step], worst: "warning" }),
    });
    expect(print.attributes("title")).toContain("512 × 512, 8 bits");
    expect(print.get(".guess").attributes("title")).toBe("A guess: its name says so");
    expect(print.text()).toContain("G");
    expect(print.get(".steps").attributes("title")).toBe("Flip green");
    expect(print.get(".worst").classes()).toContain("warning");
  });

  it("of what cannot be read says so", () => {
    const print = mounted(Print, { slug: "ferry", map: aMap("normal", { width: 0, by_hand: true }) });
    expect(print.text()).toContain("no picture");
    expect(print.find("img").exists()).toBe(false);
    expect(print.find(".guess").exists()).toBe(false);
  });
});
