import { mount } from "@vue/test-utils";
import { expect, it } from "vitest";
import { defineComponent } from "vue";

import { vTyped } from "./typed";

const Field = defineComponent({
  directives: { typed: vTyped },
  props: { value: { type: String, default: undefined }, other: { type: Number, default: 0 } },
  template: `<div>{{ other }}<input v-typed="value" /><button /></div>`,
});

it("keeps what is being typed while the page is drawn anew, and follows the value afterwards", async () => {
  const shown = mount(Field, { props: { value: "bump" }, attachTo: document.body });
  const field = shown.get("input").element;
  expect(field.value).toBe("bump");
  field.focus();
  field.value = "li";
  await shown.setProps({ other: 1 });
  expect(field.value).toBe("li");
  field.blur();
  await shown.setProps({ value: undefined });
  expect(field.value).toBe("");
});
