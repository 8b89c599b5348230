import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it } from "vitest";

import { leave, mounted } from "@/tests/mounting";

import NumberField from "./NumberField.vue";

let field: ReturnType<typeof mounted>;
afterEach(() => leave(field));

describe("a number that is being typed", () => {
  it("stays when another value arrives, is told, and then follows what others say", async () => {
    field = mounted(NumberField, { value: 1, label: "Cell" });
    const input = field.get<HTMLInputElement>("input");
    await input.trigger("focus");
    input.element.value = "3";
    await input.trigger("input");
    await field.setProps({ value: 0 });
    await flushPromises();
    expect(input.element.value).toBe("3");
    await input.trigger("blur");
    expect(field.emitted("change")).toEqual([[3]]);
    await field.setProps({ value: 7 });
    await flushPromises();
    expect(input.element.value).toBe("7");
  });
});
